import { joinHalves, packBlocks, packedSize, skipBlocks, unpackBlocks } from './bits.ts'
import { type ByteReader, type ByteWriter, unzigzag, zigzag } from './bytes.ts'
import { greatestDivisor } from './divisor.ts'

/** How the instants of a page are laid down. */
export const TIMES = { regular: 0, gaps: 1, packed: 2 } as const

/**
 * Writes ascending instants (ms) after the first. Regular times are one step; regular times with gaps are runs of steps;
 * all others are second differences, packed.
 * @returns which of `TIMES` was taken
 */
export function writeTimes(times: Float64Array, writer: ByteWriter): number {
  const count = times.length
  if (count < 2) return TIMES.regular
  const steps = new Float64Array(count - 1)
  for (let index = 1; index < count; index += 1) steps[index - 1] = times[index]! - times[index - 1]!
  const step = greatestDivisor(steps)
  const runs = runsOf(steps, step)
  if (runs.length === 0) {
    writer.varint(step)
    return TIMES.regular
  }
  const seconds = new Float64Array(count - 2)
  for (let index = 1; index < steps.length; index += 1)
    seconds[index - 1] = zigzag((steps[index]! - steps[index - 1]!) / step)
  if (runs.length * 4 < packedSize(seconds)) {
    writer.varint(step)
    writer.varint(runs.length)
    for (const { regular, skip } of runs) {
      writer.varint(regular)
      writer.varint(skip)
    }
    return TIMES.gaps
  }
  writer.varint(step)
  writer.varint(steps[0]! / step)
  writer.size = packBlocks(seconds, writer.reserve(packedSize(seconds)), writer.size)
  return TIMES.packed
}

/** Gaps as: so many single steps, then one of `skip` steps. What follows the last gap is single steps. */
function runsOf(steps: Float64Array, step: number): { regular: number; skip: number }[] {
  const runs: { regular: number; skip: number }[] = []
  let regular = 0
  for (let index = 0; index < steps.length; index += 1) {
    if (steps[index] === step) regular += 1
    else {
      runs.push({ regular, skip: steps[index]! / step })
      regular = 0
    }
  }
  return runs
}

/** Reads the instants of a page into `times[at …]`. @throws RangeError on bytes that hold no such times */
export function readTimes(
  reader: ByteReader,
  layout: number,
  page: { count: number; firstMs: number },
  times: Float64Array,
): void {
  const { count, firstMs } = page
  times[0] = firstMs
  if (count < 2) return
  const step = reader.varint()
  switch (layout) {
    case TIMES.regular: {
      let atMs = firstMs
      for (let index = 1; index < count; index += 1) times[index] = atMs += step
      return
    }
    case TIMES.gaps: {
      let atMs = firstMs
      let index = 1
      for (let runs = reader.varint(); runs > 0; runs -= 1) {
        const regular = reader.varint()
        const skip = reader.varint()
        if (index + regular >= count) throw new RangeError('the times of a page run over its end')
        for (let left = regular; left > 0; left -= 1) times[index++] = atMs += step
        times[index++] = atMs += skip * step
      }
      while (index < count) times[index++] = atMs += step
      return
    }
    case TIMES.packed: {
      let pace = reader.varint() * step
      const low = new Uint32Array(count - 2)
      const { at, high } = unpackBlocks(reader.bytes, reader.at, low)
      const seconds = high === null ? low : joinHalves(low, high)
      reader.at = at
      let atMs = (times[1] = firstMs + pace)
      for (let index = 2; index < count; index += 1) {
        pace += unzigzag(seconds[index - 2]!) * step
        times[index] = atMs += pace
      }
      return
    }
    default:
      throw new RangeError(`a page has times of layout ${layout}, which is not known here`)
  }
}

/** Goes past the instants of a page. @throws RangeError on bytes that hold no such times */
export function skipTimes(reader: ByteReader, layout: number, count: number): void {
  if (count < 2) return
  reader.varint()
  switch (layout) {
    case TIMES.regular:
      return
    case TIMES.gaps:
      for (let left = 2 * reader.varint(); left > 0; left -= 1) reader.varint()
      return
    case TIMES.packed:
      reader.varint()
      reader.at = skipBlocks(reader.bytes, reader.at, count - 2)
      return
    default:
      throw new RangeError(`a page has times of layout ${layout}, which is not known here`)
  }
}
