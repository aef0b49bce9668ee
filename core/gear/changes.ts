/** What of a gear has changed: where it stands, what it is called, what it is made of. */
export const GEAR_CHANGES = [
  'moved',
  'renamed',
  'fact',
  'partCame',
  'partWent',
  'partChanged',
  'own',
] as const
export type GearChangeKind = (typeof GEAR_CHANGES)[number]

export const OWN_FIELD_KINDS = ['text', 'number', 'date'] as const
export type OwnFieldKind = (typeof OWN_FIELD_KINDS)[number]

/** A change before it is written down. `subject`: the fact or the part that it is about. */
export interface GearChange {
  readonly what: GearChangeKind
  readonly subject: string
  readonly was: string | null
  readonly became: string | null
}

type Facts = Readonly<Record<string, string>>
interface PartThen {
  readonly key: string
  readonly name: string
  readonly facts: Facts
}

/** Facts whose change tells that something was done: not those that follow the weather, as why a service is not reached. */
const LASTING = [
  'model',
  'serial',
  'firmware',
  'controllerFirmware',
  'memoryGiB',
  'processors',
  'maker',
  'cores',
]
const LABELS: Readonly<Record<string, string>> = {
  controllerFirmware: 'firmware of the controller',
  memoryGiB: 'memory, GiB',
}
export const factLabel = (fact: string): string => LABELS[fact] ?? fact

/** What changed of the facts of a gear; a fact that comes for the first time is no change. */
export function factChanges(before: Facts, after: Facts): GearChange[] {
  return LASTING.flatMap((fact) => {
    const [was, became] = [before[fact], after[fact]]
    return was === undefined || became === undefined || was === became
      ? []
      : [{ what: 'fact' as const, subject: factLabel(fact), was, became }]
  })
}

/**
 * What changed of the parts of a gear, as one source tells of them. A part in the same place with another serial number
 * is another part: it was replaced.
 */
export function partChanges(
  before: readonly PartThen[],
  after: readonly PartThen[],
): (GearChange & { key: string })[] {
  if (before.length === 0) return []
  const then = new Map(before.map((part) => [part.key, part]))
  const now = new Map(after.map((part) => [part.key, part]))
  const changes: (GearChange & { key: string })[] = []
  for (const part of after) {
    const old = then.get(part.key)
    const named = { subject: part.name, key: part.key }
    if (old === undefined) {
      changes.push({ what: 'partCame', ...named, was: null, became: describe(part.facts) })
    } else if (
      (old.facts['serial'] ?? '') !== (part.facts['serial'] ?? '') &&
      old.facts['serial'] &&
      part.facts['serial']
    ) {
      changes.push({ what: 'partChanged', ...named, was: describe(old.facts), became: describe(part.facts) })
    } else if (
      old.facts['firmware'] &&
      part.facts['firmware'] &&
      old.facts['firmware'] !== part.facts['firmware']
    ) {
      changes.push({
        what: 'partChanged',
        ...named,
        was: `firmware ${old.facts['firmware']}`,
        became: `firmware ${part.facts['firmware']}`,
      })
    }
  }
  for (const part of before)
    if (!now.has(part.key))
      changes.push({
        what: 'partWent',
        subject: part.name,
        key: part.key,
        was: describe(part.facts),
        became: null,
      })
  return changes
}

const describe = (facts: Facts): string =>
  [facts['model'], facts['serial']].filter(Boolean).join(' ') || 'without a serial number'

/** A change in words: “d4: Aldermoor Q4 3.8T AM-71904 replaced by Aldermoor Q4 3.8T AM-99120”. */
export function changeSentence({ what, subject, was, became }: GearChange): string {
  switch (what) {
    case 'moved':
      return was === null
        ? `Placed: ${became}`
        : became === null
          ? `Taken out of ${was}, into the stock`
          : `Moved from ${was} to ${became}`
    case 'renamed':
      return `Called ${became}; before, ${was}`
    case 'fact':
      return `${subject[0]!.toUpperCase()}${subject.slice(1)} ${became}; before, ${was}`
    case 'partCame':
      return `${subject} came: ${became}`
    case 'partWent':
      return `${subject} went: ${was}`
    case 'partChanged':
      return was?.startsWith('firmware')
        ? `${subject}: ${became}; before, ${was}`
        : `${subject} replaced: ${was} by ${became}`
    case 'own':
      return `${subject}: ${became ?? 'nothing'}; before, ${was ?? 'nothing'}`
    default:
      return what satisfies never
  }
}
