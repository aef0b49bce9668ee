import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'
import { type CredentialKind, settingOf } from '#core/sources'
import type { Db } from '#db/platform'
import {
  insertSource,
  listCredentials,
  type ListedCredential,
  listMappings,
  listSources,
  type MappingRow,
  reconnectSource,
  type SourceRow,
} from '#db/sources'
import { whyNotThere } from '#protocols/reach'
import { calledAs, kindOf, settingsToKeep } from './connecting.ts'
import { sourceForm, readSource } from './forms.ts'
import { firstProblem } from '../platform/fields.ts'
import { within } from '#db/platform'
import { DESCRIPTORS, descriptorOf } from '#protocols/registry'

const FIRST_COLUMNS = [
  'name',
  'protocol',
  'address',
  'interval_s',
  'credential',
  'mapping',
  'new_items',
] as const
const LAST_COLUMNS = ['fingerprint', 'authority'] as const
const OWN_FIELDS = DESCRIPTORS.flatMap(({ fields }) => fields).filter(({ column }) => column !== null)

/** Columns of the file, in their order. Those of a protocol that a source does not speak are empty. */
export const CSV_COLUMNS: readonly string[] = [
  ...FIRST_COLUMNS,
  ...new Set(OWN_FIELDS.map(({ column }) => column!)),
  ...LAST_COLUMNS,
]
type Row = Readonly<Record<(typeof FIRST_COLUMNS)[number] | (typeof LAST_COLUMNS)[number], string>> &
  Readonly<Record<string, string>>

const MOST_LINES = 5000
const LONGEST = 8 * 1024 * 1024

/** All sources that are asked, as CSV (RFC 4180). Credentials by name: nothing secret is in it. */
export async function exportSources(db: Db): Promise<string> {
  const [sources, mappings] = await Promise.all([listSources(db), listMappings(db)])
  const text = (value: unknown): string => (typeof value === 'string' ? value : '')
  const rows = sources
    .filter(({ protocol }) => descriptorOf(protocol).isPolled)

    .map(({ settings, ...source }) => ({
      name: source.name,
      protocol: source.protocol,
      address: source.address,
      interval_s: String(source.intervalSeconds),
      credential: source.credentialName ?? '',
      mapping: mappings.find(({ id }) => id === source.mappingId)?.name ?? '',
      new_items: source.newItems,
      ...ownColumns(source.protocol, settings),
      fingerprint: text(settings['fingerprint']),
      authority: text(settings['authorityPem']),
    }))
  return stringify(rows, { header: true, columns: [...CSV_COLUMNS], escape_formulas: true })
}

const ownColumns = (protocol: string, settings: Record<string, unknown>): Readonly<Record<string, string>> =>
  Object.fromEntries(
    descriptorOf(protocol).fields.flatMap((field) =>
      field.column === null ? [] : [[field.column, settingOf(settings, field)]],
    ),
  )

/** A line that can be kept. */
export interface GoodLine {
  readonly line: number
  readonly name: string
  readonly protocol: string
  readonly address: string
  readonly settings: Record<string, unknown>
  readonly intervalSeconds: number
  readonly newItems: 'take' | 'ask'
  readonly credentialId: number | null
  readonly mappingId: number | null
  /** The source of this name that it changes; `null` where it is a new one. */
  readonly changesId: number | null
}
export interface BadLine {
  readonly line: number
  readonly why: string
}

interface Known {
  readonly sources: ReadonlyMap<string, SourceRow>
  /** Who is asked where: by `placeOf`. */
  readonly places: ReadonlyMap<string, string>
  /** Lines may change the sources that are there. */
  readonly mayChange: boolean
  readonly credentials: readonly ListedCredential[]
  readonly mappings: readonly MappingRow[]
}

/**
 * What of a file can be kept as sources, line by line; nothing is stored. Lines are counted as an editor counts them.
 * @param mayChange a line with the name of a source that is there changes it, and is otherwise wrong
 */
export async function readSourcesCsv(
  db: Db,
  text: string,
  { mayChange = false }: { readonly mayChange?: boolean } = {},
): Promise<{ good: readonly GoodLine[]; bad: readonly BadLine[] }> {
  if (text.length > LONGEST) return { good: [], bad: [{ line: 1, why: 'The file is larger than 8 MiB.' }] }
  const sources = await listSources(db)
  const known: Known = {
    sources: new Map(sources.map((source) => [source.name, source])),
    places: new Map(sources.map((source) => [placeOf(source), source.name])),
    mayChange,
    credentials: await listCredentials(db),
    mappings: await listMappings(db),
  }
  const records = recordsIn(text)
  if ('why' in records) return { good: [], bad: [records] }
  const good: GoodLine[] = []
  const bad: BadLine[] = []
  const names = new Map<string, number>()
  const places = new Map<string, number>()
  let end = 1
  for (const { record, info } of records) {
    // A record may span lines; the parser tells the last of it.
    const line = end + 1
    end = info.lines
    const row = Object.fromEntries(
      CSV_COLUMNS.map((column) => [column, unescaped(record[column] ?? '')]),
    ) as Row
    const read =
      good.length + bad.length >= MOST_LINES
        ? `Only ${MOST_LINES} lines are read.`
        : readLine(row, line, known)
    const before = names.get(row.name)
    if (typeof read === 'string') bad.push({ line, why: read })
    else if (before !== undefined)
      bad.push({ line, why: `The name ${row.name} stands in line ${before} already.` })
    else if (places.has(placeOf(read)))
      bad.push({ line, why: `${read.address} stands in line ${places.get(placeOf(read))} already.` })
    else {
      good.push(read)
      places.set(placeOf(read), line)
    }
    if (row.name !== '' && before === undefined) names.set(row.name, line)
  }
  return { good, bad }
}

/** What is asked: an address, and what tells apart those behind one. */
const placeOf = ({
  protocol,
  address,
  settings,
}: Pick<GoodLine, 'protocol' | 'address' | 'settings'>): string =>
  [
    protocol,
    address,
    ...descriptorOf(protocol)
      .fields.filter(({ tellsApart }) => tellsApart)
      .map((field) => settingOf(settings, field)),
  ].join(' ')

/** Without the apostrophe that keeps a cell from being a formula. */
const unescaped = (cell: string): string => cell.replace(/^'(?=[=+\-@\t\r])/, '')

interface CsvRecord {
  readonly record: Readonly<Record<string, string>>
  readonly info: { readonly lines: number }
}

/** The records of a file by their columns; or what is wrong with it as a whole. */
function recordsIn(text: string): readonly CsvRecord[] | BadLine {
  let records: CsvRecord[]
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
    return { line, why: `It is not CSV: ${error instanceof Error ? error.message : ''}` }
  }
  const columns = Object.keys(records[0]?.record ?? {})
  const unknown = columns.find((name) => !CSV_COLUMNS.includes(name))
  if (unknown !== undefined)
    return { line: 1, why: `The column “${unknown}” is not known. Columns are ${CSV_COLUMNS.join(', ')}.` }
  if (columns.includes('name') && columns.includes('address')) return records
  return {
    line: 1,
    why: 'The first line names the columns; name, protocol and address are needed, and a line of a source below.',
  }
}

/** @returns a sentence when something is wrong */
function readLine(row: Row, line: number, known: Known): GoodLine | string {
  const form = readSource(fieldsOfRow(row))
  if (typeof form === 'string') return `${form}.`
  const { protocol, address } = form
  const common = sourceForm.safeParse({
    name: row.name,
    intervalSeconds: row.interval_s || String(descriptorOf(protocol).usualIntervalSeconds),
    newItems: row.new_items || 'take',
  })
  if (!common.success) return firstProblem(common.error)
  const settings = calledAs(protocol, settingsToKeep(form.settings), row.name)
  const changes = changedBy(row, { protocol, address, settings }, known)
  if (typeof changes === 'string') return changes
  const credentialId = credentialFor({ ...row, address }, kindOf(protocol, settings), known)
  if (typeof credentialId === 'string') return credentialId
  const mappingId = mappingFor(row, protocol, known)
  if (typeof mappingId === 'string') return mappingId
  return { line, ...common.data, protocol, address, settings, credentialId, mappingId, changesId: changes }
}

/** @returns the id of the source that a row changes, `null` where it is a new one, a sentence when it may not be kept */
function changedBy(
  { name }: Row,
  read: Pick<GoodLine, 'protocol' | 'address' | 'settings'>,
  { sources, places, mayChange }: Known,
): number | string | null {
  const same = sources.get(name)
  if (same !== undefined && !mayChange) return `There is a source called ${name} already.`
  if (same !== undefined && same.protocol !== read.protocol)
    return `${name} is read by ${same.protocol}; a line cannot make it ${read.protocol}. Delete it first, or take another name.`
  const there = places.get(placeOf(read))
  if (there !== undefined && there !== same?.name) return `${read.address} is asked already, by ${there}.`
  return same?.id ?? null
}

/** @returns the id of the credential that a row names, `null` where none is needed, a sentence when it is not right */
function credentialFor(
  { credential: name, address }: Row,
  kind: CredentialKind | null,
  { credentials }: Known,
): number | string | null {
  if (kind === null) return name === '' ? null : `It goes in without a credential, and ${name} is named.`
  if (name === '') return 'It needs a credential; name one that is kept.'
  const credential = credentials.find((each) => each.name === name)
  if (credential === undefined) return `No credential called “${name}” is kept.`
  if (credential.kind !== kind) return `The credential ${name} is of another kind than this source needs.`
  const why = whyNotThere(credential, kind, address)
  if (why !== null) return `The credential ${name} is not for there; ${why}.`
  return credential.id
}

/** @returns the id of the mapping that a row names, `null` where none is needed, a sentence when it is not right */
function mappingFor({ mapping: name }: Row, protocol: string, { mappings }: Known): number | string | null {
  const isNeeded = descriptorOf(protocol).mapping !== null
  if (name === '') return isNeeded ? 'It needs a mapping; name one that is kept.' : null
  const mapping = mappings.find((each) => each.name === name && each.protocol === protocol)
  return mapping?.id ?? `No mapping called “${name}” is kept for ${protocol}.`
}

/** A row as its protocol's form would send it; what is empty is left for that to fill. */
function fieldsOfRow(row: Row): Record<string, string> {
  const protocol = row.protocol.toLowerCase()
  const own = OWN_FIELDS.flatMap(({ name, column }) => (row[column!] === '' ? [] : [[name, row[column!]!]]))
  return {
    ...(Object.fromEntries(own) as Record<string, string>),
    protocol,
    address: row.address,
    fingerprint: row.fingerprint,
    authorityPem: row.authority,
  }
}

/** Keeps good lines as sources, or as changes of sources, all or none; the collector asks them at once. */
export async function keepLines(db: Db, lines: readonly GoodLine[]): Promise<void> {
  await within(db, async (trx) => {
    for (const { line: _, changesId, ...source } of lines)
      if (changesId === null) await insertSource(trx, { ...source, token: null })
      else await reconnectSource(trx, changesId, source)
  })
}
