/** A row of what people set up, as far as it is not what it was. `before` is `null` of a new one, `after` of one that is gone. */
export interface DifferingRow {
  /** The table that holds it, as the database calls it. */
  readonly of: string
  readonly name: string | null
  readonly before: Readonly<Record<string, unknown>> | null
  readonly after: Readonly<Record<string, unknown>> | null
}

/** What the rows of a table are called. */
const ROWS: Readonly<Record<string, string>> = {
  rule: 'rule',
  call_out: 'call-out',
  channel: 'channel',
  person: 'person',
  team: 'team',
  team_member: 'member of a team',
  source: 'source',
  source_item: 'what is watched',
  credential: 'credential',
  mapping: 'mapping',
  building: 'building',
  room: 'room',
  rack: 'rack',
  gear: 'gear',
  gear_group: 'group',
  gear_group_member: 'member of a group',
  gear_apart: 'two that are two',
  floor_place: 'place on the floor',
  tag_rule: 'rule of a tag',
  own_field: 'own field',
  link: 'link',
  quiet: 'quiet',
  setting: 'setting',
  site: 'site',
  own_measure: 'own measures',
  retention: 'how long readings are kept',
  heartbeat: 'heartbeat',
  allowed_command: 'allowed command',
  directory: 'directory',
  user: 'account',
  api_token: 'token',
}

const MOST_LETTERS = 160

function valueWords(value: unknown): string {
  if (value === null || value === undefined || value === '') return 'nothing'
  if (value === true) return 'yes'
  if (value === false) return 'no'
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > MOST_LETTERS ? `${text.slice(0, MOST_LETTERS)}…` : text
}

/** `role: see → operate`, each field on a line; of what is new or gone that it is. Fields that hold the same are left out. */
export function differenceLines({ of, name, before, after }: DifferingRow): string[] {
  const what = `${ROWS[of] ?? of}${name === null ? '' : ` ${name}`}`
  if (before === null) return [`${what} is new`]
  if (after === null) return [`${what} is gone`]
  const fields = differences(before, after)
  return fields.length === 0
    ? [`${what}: a secret was set`]
    : fields.map(([field, was, is]) => `${what}, ${field}: ${valueWords(was)} → ${valueWords(is)}`)
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Fields that differ, those of objects within by their path. */
function differences(
  before: Readonly<Record<string, unknown>>,
  after: Readonly<Record<string, unknown>>,
  path = '',
): (readonly [field: string, was: unknown, is: unknown])[] {
  return [...new Set([...Object.keys(before), ...Object.keys(after)])].flatMap((key) => {
    const [was, is] = [before[key], after[key]]
    if (JSON.stringify(was) === JSON.stringify(is)) return []
    const field = path === '' ? key : `${path}.${key}`
    return isObject(was) && isObject(is) ? differences(was, is, field) : [[field, was, is] as const]
  })
}
