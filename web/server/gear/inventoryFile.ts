import { parse } from 'csv-parse/sync'
import { type Db, within } from '#db/platform'
import { recordGearChanges, listGear, updateGear, listOwnFields, type OwnField, writeOwn } from '#db/gear'
import { announce, recordChange } from '#db/platform'
import type { InventoryRow, PartInventoryRow } from './inventory.ts'
import { Refused } from '../platform/refused.ts'
import { MOST_CELLS, readWorkbook, type Sheet } from '../platform/workbook.ts'

const GEAR_COLUMNS = [
  ['Id', 'id'],
  ['Name', 'name'],
  ['Kind', 'kind'],
  ['Maker', 'maker'],
  ['Model', 'model'],
  ['Serial', 'serial'],
  ['Firmware', 'firmware'],
  ['Warranty ends', 'warrantyEnds'],
  ['Place', 'place'],
  ['Feeds', 'feeds'],
  ['Sources', 'sources'],
  ['Tags', 'tags'],
  ['First seen', 'firstSeen'],
  ['Last seen', 'lastSeen'],
] as const satisfies readonly (readonly [string, keyof InventoryRow])[]
const PART_COLUMNS = [
  ['Gear', 'gear'],
  ['Part', 'name'],
  ['Kind', 'kind'],
  ['Model', 'model'],
  ['Serial', 'serial'],
  ['Firmware', 'firmware'],
  ['Place', 'place'],
  ['First seen', 'firstSeen'],
] as const satisfies readonly (readonly [string, keyof PartInventoryRow])[]

export const gearSheet = (rows: readonly InventoryRow[]): Sheet => ({
  name: 'Gear',
  head: [...GEAR_COLUMNS.map(([head]) => head), ...(rows[0]?.own ?? []).map(([name]) => name)],
  rows: rows.map((row) => [
    ...GEAR_COLUMNS.map(([, key]) => row[key] ?? ''),
    ...row.own.map(([, value]) => value),
  ]),
})

export const partSheet = (rows: readonly PartInventoryRow[]): Sheet => ({
  name: 'Parts',
  head: PART_COLUMNS.map(([head]) => head),
  rows: rows.map((row) => PART_COLUMNS.map(([, key]) => row[key])),
})

type Line = { readonly number: number; readonly cells: ReadonlyMap<string, string> }

/** Lines of a CSV or XLSX file by the heads of its columns. @throws Refused when it is neither */
export async function readLines(file: File): Promise<Line[]> {
  const bytes = Buffer.from(await file.arrayBuffer())
  const isWorkbook = bytes.subarray(0, 2).toString('latin1') === 'PK'
  const table = isWorkbook ? await readWorkbook(bytes) : csvTable(bytes)
  const [head, ...rows] = table
  if (head === undefined || head.every((cell) => cell === ''))
    throw new Refused('The file is empty. Its first line has to be the heads of the columns.')
  if (rows.length > MOST_CELLS.rows || head.length > MOST_CELLS.columns)
    throw new Refused(
      `The file has ${rows.length} lines of ${head.length} columns; at most ${MOST_CELLS.rows} of ${MOST_CELLS.columns} are read.`,
    )
  return rows.flatMap((row, index) => {
    const cells = new Map(head.map((title, at) => [title.trim().toLowerCase(), (row[at] ?? '').trim()]))
    return [...cells.values()].every((cell) => cell === '') ? [] : [{ number: index + 2, cells }]
  })
}

function csvTable(bytes: Buffer): string[][] {
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    const separator = (text.split('\n', 1)[0] ?? '').includes(';') ? ';' : ','
    return parse(text, { bom: true, delimiter: separator, relax_column_count: true })
  } catch (error) {
    throw new Refused(
      `The file is no CSV in UTF-8 and no workbook: ${error instanceof Error ? error.message : String(error)}.`,
    )
  }
}

export interface Imported {
  readonly changed: number
  readonly same: number
}

const DAY = /^\d{4}-\d{2}-\d{2}$/
const isDay = (text: string): boolean => DAY.test(text) && !Number.isNaN(Date.parse(`${text}T00:00:00Z`))
/** What is shown at most of what is wrong. */
const MOST_PROBLEMS = 20

/**
 * Takes over what people may say of gear: name, warranty and own fields. Gear is found by its id, else its serial
 * number, else its name; columns that devices tell are passed over. All lines, or none.
 * @throws Refused with every line that is wrong
 */
export async function importInventory(db: Db, lines: readonly Line[], who: string): Promise<Imported> {
  return within(db, async (trx) => {
    const [gear, fields] = [await listGear(trx), await listOwnFields(trx)]
    const problems: string[] = []
    let changed = 0
    for (const line of lines) {
      const found = findGear(gear, line.cells)
      if (typeof found === 'string') {
        problems.push(`Line ${line.number}: ${found}`)
        continue
      }
      const change = changeOf(found, line.cells, fields)
      if (typeof change === 'string') {
        problems.push(`Line ${line.number}, ${found.name}: ${change}`)
        continue
      }
      if (problems.length === 0 && (await writeInventory(trx, found, change, who))) changed += 1
    }
    if (problems.length > 0)
      throw new Refused(
        `${problems.slice(0, MOST_PROBLEMS).join(' ')}${problems.length > MOST_PROBLEMS ? ` And ${problems.length - MOST_PROBLEMS} more.` : ''} Nothing was changed.`,
      )
    await recordChange(trx, who, `read an inventory of ${lines.length} lines, ${changed} changed`)
    await announce(trx, { topic: 'places' })
    return { changed, same: lines.length - changed }
  })
}

type Gear = Awaited<ReturnType<typeof listGear>>[number]

function findGear(gear: readonly Gear[], cells: ReadonlyMap<string, string>): Gear | string {
  const [id, serial, name] = ['id', 'serial', 'name'].map((key) => cells.get(key) ?? '')
  if (id) return gear.find((each) => String(each.id) === id) ?? `there is no gear with the id ${id}.`
  const key = serial || name
  if (!key) return 'it has neither Id nor Serial nor Name.'
  const same = gear.filter((each) =>
    serial
      ? each.facts['serial']?.toLowerCase() === serial.toLowerCase()
      : each.name.toLowerCase() === name!.toLowerCase(),
  )
  if (same.length === 1) return same[0]!
  const what = serial ? `the serial number ${serial}` : `the name ${name}`
  return same.length === 0 ? `no gear has ${what}.` : `${same.length} gear have ${what}; give the Id.`
}

interface Change {
  readonly name: string
  readonly warrantyEnds: string | null
  readonly own: Readonly<Record<string, string | null>>
}

function changeOf(
  gear: Gear,
  cells: ReadonlyMap<string, string>,
  fields: readonly OwnField[],
): Change | string {
  const name = cells.get('name') || gear.name
  if (name.length > 64) return 'the name is longer than 64 characters.'
  const given = cells.get('warranty ends')
  if (given !== undefined && given !== '' && !isDay(given))
    return `“${given}” is no day; write it as 2027-03-31.`
  const own: Record<string, string | null> = {}
  for (const field of fields) {
    const value = cells.get(field.name.toLowerCase())
    if (value === undefined) continue
    const problem = value === '' ? null : fieldProblem(field, value)
    if (problem !== null) return problem
    own[field.name] = value === '' ? null : value
  }
  return {
    name,
    warrantyEnds: given === undefined ? gear.warrantyEnds : given === '' ? null : given,
    own,
  }
}

/** Why a value cannot stand in a field, as a sentence. */
export function fieldProblem({ name, kind }: Pick<OwnField, 'name' | 'kind'>, value: string): string | null {
  if (kind === 'number' && !/^-?\d+([.,]\d+)?$/.test(value)) return `${name}: “${value}” is no number.`
  if (kind === 'date' && !isDay(value)) return `${name}: “${value}” is no day; write it as 2027-03-31.`
  return value.length > 200 ? `${name} is longer than 200 characters.` : null
}

/** @returns whether anything is different now */
export async function writeInventory(trx: Db, gear: Gear, change: Change, who: string): Promise<boolean> {
  const differs = [
    ...(gear.warrantyEnds === change.warrantyEnds
      ? []
      : [{ subject: 'Warranty ends', was: gear.warrantyEnds, became: change.warrantyEnds }]),
    ...Object.entries(change.own).flatMap(([subject, became]) =>
      (gear.own[subject] ?? null) === became ? [] : [{ subject, was: gear.own[subject] ?? null, became }],
    ),
  ]
  if (change.name !== gear.name) await updateGear(trx, gear.id, { name: change.name, tags: gear.tags }, who)
  if (differs.length > 0) {
    await writeOwn(trx, gear.id, { warrantyEnds: change.warrantyEnds, own: change.own })
    await recordGearChanges(
      trx,
      gear.id,
      differs.map((each) => ({ what: 'own' as const, ...each })),
      who,
    )
  }
  return differs.length > 0 || change.name !== gear.name
}
