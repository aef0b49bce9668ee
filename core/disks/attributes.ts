/** How the 48 bits of an attribute are packed, where makers agree. */
type Packing = 'count16' | 'count32' | 'count48' | 'celsius' | 'hours' | 'sectors' | 'percent'

interface Known {
  readonly name: string
  readonly packing: Packing
  /** Why it is worth a look; `null` where its change alone says nothing. */
  readonly why: string | null
}

/**
 * Attributes that most makers give the same meaning. ATA/ATAPI-5 §8.41.5 leaves all of them to the maker: what is not
 * here is shown as it stands, and never guessed.
 */
const KNOWN: Readonly<Record<number, Known>> = {
  1: { name: 'read error rate', packing: 'count48', why: null },
  3: { name: 'time to spin up', packing: 'count16', why: null },
  4: { name: 'starts and stops', packing: 'count32', why: null },
  5: {
    name: 'reallocated sectors',
    packing: 'count32',
    why: 'Sectors that failed and were replaced from the spare. One is no harm; a number that grows comes before a failure.',
  },
  7: { name: 'seek error rate', packing: 'count48', why: null },
  9: { name: 'power-on hours', packing: 'hours', why: null },
  10: {
    name: 'spin-up retries',
    packing: 'count32',
    why: 'The spindle did not come up at once: the motor or its bearing is near its end.',
  },
  12: { name: 'power cycles', packing: 'count32', why: null },
  171: { name: 'program failures', packing: 'count32', why: 'Cells that could not be written any more.' },
  172: { name: 'erase failures', packing: 'count32', why: 'Blocks that could not be erased any more.' },
  173: { name: 'mean of erasures', packing: 'count16', why: null },
  174: { name: 'unexpected losses of power', packing: 'count32', why: null },
  177: {
    name: 'wear levelling',
    packing: 'count32',
    why: 'Its value is the life that is left, in percent, at many makers.',
  },
  184: {
    name: 'end-to-end errors',
    packing: 'count32',
    why: 'Data changed on its way through the drive. It cannot be trusted with anything.',
  },
  187: {
    name: 'uncorrectable errors told',
    packing: 'count16',
    why: 'Reads that it had to give up. Each one is lost data unless the group has it twice.',
  },
  188: {
    name: 'commands that timed out',
    packing: 'count16',
    why: 'Often the cable or the supply, not the drive.',
  },
  190: { name: 'temperature of the airflow', packing: 'celsius', why: null },
  192: { name: 'retracts without power', packing: 'count32', why: null },
  193: { name: 'load cycles', packing: 'count32', why: null },
  194: { name: 'temperature', packing: 'celsius', why: null },
  196: {
    name: 'reallocations tried',
    packing: 'count32',
    why: 'It counts attempts: what fails as well as what is done.',
  },
  197: {
    name: 'sectors that wait to be reallocated',
    packing: 'count32',
    why: 'Sectors that cannot be read now. They are replaced when they are written, or lost.',
  },
  198: {
    name: 'uncorrectable sectors found by its own test',
    packing: 'count32',
    why: 'The drive found them itself, without anybody asking. Replace it when they grow.',
  },
  199: {
    name: 'errors on the cable',
    packing: 'count32',
    why: 'Between drive and controller. Reseat or replace the cable first; the drive is rarely at fault.',
  },
  202: {
    name: 'life left',
    packing: 'percent',
    why: 'Its value is the life that is left, in percent, at some makers.',
  },
  231: {
    name: 'life left',
    packing: 'percent',
    why: 'Its value is the life that is left, in percent, at many makers.',
  },
  232: {
    name: 'spare left',
    packing: 'percent',
    why: 'At zero it has nothing to replace failed blocks with.',
  },
  233: {
    name: 'wear of the media',
    packing: 'count32',
    why: 'Its value is the life that is left, in percent, at some makers.',
  },
  235: { name: 'losses of power with data in flight', packing: 'count32', why: null },
  241: {
    name: 'sectors written',
    packing: 'sectors',
    why: 'Together with the endurance that the maker promises it says how long the drive lasts.',
  },
  242: { name: 'sectors read', packing: 'sectors', why: null },
}

/** What an attribute counts, in words; `null` where only its maker knows. */
export const attributeName = (id: number): string | null => KNOWN[id]?.name ?? null
/** Why it is worth a look; `null` where nothing is known, or its change alone says nothing. */
export const attributeWhy = (id: number): string | null => KNOWN[id]?.why ?? null

const lowest = (raw: bigint, bits: number): number => Number(BigInt.asUintN(bits, raw))

/** What the raw value counts: of packed ones the part that is the count, °C, hours, sectors; of others all 48 bits. */
export function attributeCount(id: number, raw: bigint): number {
  switch (KNOWN[id]?.packing) {
    case 'count16':
      return lowest(raw, 16)
    case 'count32':
    case 'hours':
      return lowest(raw, 32)
    case 'percent':
      return lowest(raw, 8)
    case 'celsius':
      return Number(BigInt.asIntN(8, raw))
    default:
      return lowest(raw, 48)
  }
}

const SECTOR = 512n
/** A whole number of any size, its digits by threes. */
export const grouped = (value: bigint | number): string =>
  value.toString().replace(/\B(?=(\d{3})+$)/g, '\u202f')

/** Where the words above a temperature hold two more, they are the extremes. */
function celsiusWords(raw: bigint, celsius: number | bigint): string {
  const [low, high] = [16n, 32n].map((shift) => Number(BigInt.asIntN(16, raw >> shift))) as [number, number]
  const isPlausible = low >= -60 && high <= 150 && low <= celsius && celsius <= high && high > low
  return `${celsius} °C${isPlausible ? `, ${low} to ${high} so far` : ''}`
}

/** The raw value in words; `null` where nobody here knows how it is packed. */
export function attributeWords(id: number, raw: bigint): string | null {
  const known = KNOWN[id]
  if (known === undefined) return null
  const count = attributeCount(id, raw)
  switch (known.packing) {
    case 'celsius':
      return celsiusWords(raw, count)
    case 'hours':
      return `${grouped(count)} h`
    case 'sectors':
      return `${grouped(raw)} sectors, ${grouped(raw * SECTOR)} B`
    case 'percent':
      return `${count} %`
    case 'count16':
    case 'count32': {
      const rest = raw >> BigInt(known.packing === 'count16' ? 16 : 32)
      return rest === 0n ? grouped(count) : `${grouped(count)}; above it ${grouped(rest)}`
    }
    default:
      return grouped(raw)
  }
}
