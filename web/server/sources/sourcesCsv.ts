import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'
import { USUAL_INTERVALS } from '#core/sources'
import type { Db, CredentialKind, SourceProtocol } from '#db/platform'
import { listMappings, type MappingRow, insertSource, listCredentials, listSources } from '#db/sources'
import { kindOf } from './connecting.ts'
import { checkForm, sourceForm } from './forms.ts'
import { firstProblem } from '../platform/fields.ts'
import { within } from '#db/platform'

/** Columns of the file, in their order. Those of a protocol that a source does not speak are empty. */
export const CSV_COLUMNS = [
  'name',
  'protocol',
  'address',
  'interval_s',
  'credential',
  'mapping',
  'new_items',
  'version',
  'authentication',
  'privacy',
  'access',
  'unit',
  'gear',
  'fingerprint',
  'authority',
] as const
type Column = (typeof CSV_COLUMNS)[number]
type Row = Readonly<Record<Column, string>>

const MOST_LINES = 5000
const LONGEST = 8 * 1024 * 1024

/** All sources that are asked, as CSV (RFC 4180). Credentials by name: nothing secret is in it. */
export async function exportSources(db: Db): Promise<string> {
  const [sources, mappings] = await Promise.all([listSources(db), listMappings(db)])
  const text = (value: unknown): string =>
    typeof value === 'string' || typeof value === 'number' ? String(value) : ''
  const rows = sources
    .filter((source) => source.protocol !== 'otlp')
    .map(({ settings, ...source }): Row => ({
      name: source.name,
      protocol: source.protocol,
      address: source.address,
      interval_s: String(source.intervalSeconds),
      credential: source.credentialName ?? '',
      mapping: mappings.find(({ id }) => id === source.mappingId)?.name ?? '',
      new_items: source.newItems,
      version: text(settings['version']),
      authentication: source.protocol === 'snmp' ? text(settings['authentication']) : '',
      privacy: source.protocol === 'snmp' ? text(settings['privacy']) : '',
      access: text(settings['access']),
      unit: text(settings['unit']),
      gear: text(settings['name']),
      fingerprint: text(settings['fingerprint']),
      authority: text(settings['authorityPem']),
    }))
  return stringify(rows, { header: true, columns: [...CSV_COLUMNS] })
}

/** A line that can be kept. */
export interface GoodLine {
  readonly line: number
  readonly name: string
  readonly protocol: Exclude<SourceProtocol, 'otlp'>
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly intervalSeconds: number
  readonly newItems: 'take' | 'ask'
  readonly credentialId: number | null
  readonly mappingId: number | null
}
export interface BadLine {
  readonly line: number
  readonly why: string
}

interface Known {
  readonly names: ReadonlySet<string>
  readonly addresses: ReadonlyMap<string, string>
  readonly credentials: readonly { id: number; name: string; kind: CredentialKind }[]
  readonly mappings: readonly MappingRow[]
}

/** What of a file can be kept as sources, line by line; nothing is stored. Lines are counted as an editor counts them. */
export async function readSourcesCsv(
  db: Db,
  text: string,
): Promise<{ good: readonly GoodLine[]; bad: readonly BadLine[] }> {
  if (text.length > LONGEST) return { good: [], bad: [{ line: 1, why: 'The file is larger than 8 MiB.' }] }
  const sources = await listSources(db)
  const known: Known = {
    names: new Set(sources.map(({ name }) => name)),
    addresses: new Map(sources.map(({ address, protocol, name }) => [`${protocol} ${address}`, name])),
    credentials: await listCredentials(db),
    mappings: await listMappings(db),
  }
  let records: { record: Record<string, string>; info: { lines: number } }[]
  try {
    records = parse(text, {
      bom: true,
      columns: (header: string[]) => header.map((name) => name.trim().toLowerCase()),
      info: true,
      relax_column_count: true,
      skip_empty_lines: true,
      trim: true,
      to: MOST_LINES + 1,
      max_record_size: 256 * 1024,
    })
  } catch (error) {
    const line = error instanceof Error && 'lines' in error ? Number(error.lines) : 1
    return { good: [], bad: [{ line, why: `It is not CSV: ${error instanceof Error ? error.message : ''}` }] }
  }
  const [first] = records
  const unknown = Object.keys(first?.record ?? {}).filter((name) => !CSV_COLUMNS.includes(name as Column))
  if (first === undefined || !('name' in first.record) || !('address' in first.record) || unknown.length > 0)
    return {
      good: [],
      bad: [
        {
          line: 1,
          why:
            unknown.length > 0
              ? `The column «${unknown[0]}» is not known. Columns are ${CSV_COLUMNS.join(', ')}.`
              : 'The first line names the columns; name, protocol and address are needed, and a line of a source below.',
        },
      ],
    }
  const good: GoodLine[] = []
  const bad: BadLine[] = []
  const names = new Map<string, number>()
  let end = 1
  for (const { record, info } of records) {
    // A record may span lines; the parser tells the last of it.
    const line = end + 1
    end = info.lines
    const row = Object.fromEntries(CSV_COLUMNS.map((column) => [column, record[column] ?? ''])) as Row
    const read =
      good.length + bad.length >= MOST_LINES
        ? `Only ${MOST_LINES} lines are read.`
        : readLine(row, line, known)
    const before = names.get(row.name)
    if (typeof read === 'string') bad.push({ line, why: read })
    else if (before !== undefined)
      bad.push({ line, why: `The name ${row.name} stands in line ${before} already.` })
    else good.push(read)
    if (row.name !== '' && before === undefined) names.set(row.name, line)
  }
  return { good, bad }
}

/** @returns a sentence when something is wrong */
function readLine(row: Row, line: number, known: Known): GoodLine | string {
  const fields = checkForm.safeParse({
    protocol: row.protocol.toLowerCase(),
    address: row.address,
    version: row.version || 'v2c',
    ...(row.authentication === '' ? {} : { authentication: row.authentication }),
    ...(row.privacy === '' ? {} : { privacy: row.privacy }),
    ...(row.access === '' ? {} : { access: row.access }),
    ...(row.unit === '' ? {} : { modbusUnit: row.unit }),
    gearName: row.gear,
    fingerprint: row.fingerprint,
    authorityPem: row.authority,
  })
  if (!fields.success) {
    const isProtocol = fields.error.issues[0]?.path[0] === 'protocol'
    return isProtocol
      ? `«${row.protocol}» is not a protocol here; known are redfish, snmp, openmetrics, modbus and reach.`
      : firstProblem(fields.error)
  }
  const form = fields.data
  const common = sourceForm.safeParse({
    name: row.name,
    intervalSeconds: row.interval_s || String(USUAL_INTERVALS[form.protocol]),
    newItems: row.new_items || 'take',
  })
  if (!common.success) return firstProblem(common.error)
  if (known.names.has(row.name)) return `There is a source called ${row.name} already.`
  const there = known.addresses.get(`${form.protocol} ${form.address}`)
  if (there !== undefined) return `${form.address} is asked already, by ${there}.`
  const settings = settingsOf(form)
  const kind = kindOf(form.protocol, settings)
  const credential = known.credentials.find(({ name }) => name === row.credential)
  if (kind === null && row.credential !== '')
    return `It goes in without a credential, and ${row.credential} is named.`
  if (kind !== null) {
    if (row.credential === '') return 'It needs a credential; name one that is kept.'
    if (credential === undefined) return `No credential called «${row.credential}» is kept.`
    if (credential.kind !== kind)
      return `The credential ${row.credential} is of another kind than this source needs.`
  }
  const mapping = known.mappings.find(
    ({ name, protocol }) => name === row.mapping && protocol === form.protocol,
  )
  if (row.mapping !== '' && mapping === undefined)
    return `No mapping called «${row.mapping}» is kept for ${form.protocol}.`
  if (row.mapping === '' && (form.protocol === 'modbus' || form.protocol === 'openmetrics'))
    return 'It needs a mapping; name one that is kept.'
  return {
    line,
    ...common.data,
    protocol: form.protocol,
    address: form.address,
    settings,
    credentialId: credential?.id ?? null,
    mappingId: mapping?.id ?? null,
  }
}

function settingsOf(form: ReturnType<typeof checkForm.parse>): Record<string, unknown> {
  switch (form.protocol) {
    case 'snmp':
      return { version: form.version, authentication: form.authentication, privacy: form.privacy }
    case 'modbus':
      return { unit: form.modbusUnit, name: form.gearName }
    default:
      return {
        authorityPem: form.authorityPem === '' ? null : form.authorityPem,
        fingerprint: form.fingerprint === '' ? null : form.fingerprint,
        ...(form.protocol === 'openmetrics' ? { access: form.access } : {}),
      }
  }
}

/** Keeps good lines as sources, all or none; the collector asks them at once. */
export async function keepLines(db: Db, lines: readonly GoodLine[]): Promise<void> {
  await within(db, async (trx) => {
    for (const { line: _, ...source } of lines) await insertSource(trx, { ...source, token: null })
  })
}
