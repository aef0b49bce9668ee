import { randomBytes } from 'node:crypto'
import fc from 'fast-check'
import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { MeasureKey } from '#core/catalogue'
import { storeFindings, keptValues, type Placement } from '#db/gear'
import { drawLink } from '#db/links'
import type { Db } from '#db/platform'
import { ensurePartitions } from '#db/readings'
import { insertSource } from '#db/sources'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { madeRack, madeRooms } from '#db/testing/site'
import { Notifier } from '../notify/notifier.ts'
import { type MadeFault, MadeSite, RACKS, type Read } from '../testing/madeSite.ts'
import { AlertWriter } from './alertWriter.ts'
import { Causes } from './causes.ts'
import { Judgement } from './judgement.ts'
import { Silence } from './silence.ts'

// Two faults at once on a site of 300 gear, through the judging and a real database; time is an argument. Two that have
// nothing to do with each other are both told, always. What follows from a fault is folded under it.

const isLong = process.env['RACK_TEST_LONG'] === 'yes'
const PAIRS = isLong ? 500 : 12
const SEED = 20261128
const SECOND = 1000
const MINUTE = 60 * SECOND
const START = Date.now() - 400 * 86_400_000
/** From one pair to the next: longer than anything is held against what was before. */
const APART = 4 * 3_600_000
/** So often, every ten seconds, everything is read after a fault. */
const TICKS = 6

const site = new MadeSite()
let db: Db
let drop: () => Promise<void>
let judgement: Judgement
let silence: Silence
let causes: Causes
let nowMs = START
const sourceIds = new Map<string, number>()
const placements = new Map<string, Placement>()

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  await ensurePartitions(db, START - 86_400_000, START + 5 * (PAIRS + 2) * APART)
  const notifier = new Notifier(randomBytes(32), 0)
  const writer = new AlertWriter(db, notifier)
  judgement = new Judgement(db, writer, () => nowMs)
  silence = new Silence(db, writer, START - MINUTE)
  causes = new Causes(db, notifier)
  for (const { name } of site.gear)
    sourceIds.set(
      name,
      await insertSource(db, {
        name,
        protocol: 'redfish',
        address: 'https://127.0.0.1',
        settings: {},
        intervalSeconds: 10,
        credentialId: null,
        token: null,
      }),
    )
  // As if they had been there long before the first moment.
  await sql`update source set created_at = ${new Date(START - 86_400_000)}`.execute(db)
  for (let tick = 0; tick < 3; tick += 1) await moment(site.read([]), () => true)
  await place()
  causes.refresh()
  judgement.forget()
}, 300_000)
afterAll(() => drop())

/** Where everything stands, and how it hangs together. */
async function place(): Promise<void> {
  const gear = await db.selectFrom('gear').select(['id', 'name']).execute()
  const parts = await db.selectFrom('part').select(['id', 'gearId', 'key']).execute()
  const idOf = new Map(gear.map(({ id, name }) => [name, id]))
  const partOf = new Map(parts.map(({ id, gearId, key }) => [`${gearId} ${key}`, id]))
  const partId = (name: string, part: string | null): number | null =>
    part === null ? null : partOf.get(`${idOf.get(name)} ${part}`)!
  for (const { kind, from, fromPart, to, toPart } of site.links)
    await drawLink(
      db,
      {
        kind,
        fromGearId: idOf.get(from)!,
        toGearId: idOf.get(to)!,
        fromPartId: partId(from, fromPart),
        toPartId: partId(to, toPart),
      },
      'a test',
    )
  const rooms = await madeRooms(db, ['North', 'South'])
  const racks: number[] = []
  for (let rack = 1; rack <= RACKS; rack += 1) {
    const roomId = rooms[rack <= RACKS / 2 ? 0 : 1]!
    racks.push(await madeRack(db, { name: `R${rack}`, roomId, xMm: 1000 * rack }))
  }
  const units = new Map<number, number>()
  for (const { name, kind, room, rack } of site.gear) {
    const gearId = idOf.get(name)!
    const roomId = rooms[room - 1]!
    if (kind === 'probe') {
      const box = { xMm: 1000 * rack! + 220, yMm: 3800, widthMm: 160, depthMm: 160, turn: 0 as const }
      await db
        .insertInto('floorPlace')
        .values({ gearId, roomId, ...box })
        .execute()
    } else if (rack !== null) {
      const unit = (units.get(rack) ?? 0) + 1
      units.set(rack, unit)
      const position = { rackId: racks[rack - 1]!, unit, heightUnits: 1, face: 'both' as const }
      await db.updateTable('gear').set(position).where('id', '=', gearId).execute()
    } else if (kind !== 'machine') {
      const box = { xMm: 100, yMm: 100, widthMm: 600, depthMm: 600, turn: 0 as const }
      await db
        .insertInto('floorPlace')
        .values({ gearId, roomId, ...box })
        .execute()
    }
  }
}

/** Ten seconds: each gear that is chosen is read at its own time within them, and what is heard is noted as heard. */
async function moment(reads: ReadonlyMap<string, Read>, isChosen: (name: string) => boolean): Promise<void> {
  const beganMs = nowMs
  const heard: number[] = []
  for (const [index, { name }] of site.gear.entries()) {
    const read = reads.get(name) ?? null
    if (read === null) continue
    heard.push(sourceIds.get(name)!)
    if (!isChosen(name)) continue
    const findings = site.findings(name, read)
    const taken = {
      sourceId: sourceIds.get(name)!,
      atMs: beganMs + ((index * 37) % 97) * 100,
      heardAtMs: 0,
      durationMs: null,
      findings,
    }
    nowMs = beganMs + 10 * SECOND
    const { placement } = await storeFindings(db, taken, placements.get(name) ?? null)
    placements.set(name, placement)
    const values = keptValues(placement, findings)
    await judgement.judgeMoment({ taken, seriesIds: placement.layout.seriesIds, values })
  }
  nowMs = beganMs + 10 * SECOND
  await noteHeard(heard)
  await silence.look(nowMs)
  await causes.look(nowMs)
}

const noteHeard = (heard: readonly number[]) =>
  db
    .updateTable('source')
    .set({ lastHeardAt: new Date(nowMs) })
    .where('id', 'in', heard)
    .execute()

/** Lets faults come in turn, each at its time, and everything be read until it has been noticed. */
async function happen(
  faults: readonly { readonly fault: MadeFault; readonly atMs: number }[],
): Promise<void> {
  const held: MadeFault[] = []
  let before = site.read([])
  for (const { fault, atMs } of [...faults].sort((a, b) => a.atMs - b.atMs)) {
    nowMs = Math.max(nowMs, atMs)
    await noteHeard([...before].flatMap(([name, read]) => (read === null ? [] : [sourceIds.get(name)!])))
    held.push(fault)
    const now = site.read(held)
    const others = new Set(
      site.gear.flatMap(({ name }) => (differ(before.get(name), now.get(name)) ? [name] : [])),
    )
    for (let tick = 0; tick < TICKS; tick += 1) await moment(now, (name) => others.has(name))
    before = now
  }
}

const differ = (a: Read | undefined, b: Read | undefined): boolean =>
  a == null || b == null
    ? a !== b
    : a.size !== b.size || [...a].some(([sign, value]) => b.get(sign) !== value)

/** Everything is well again, and what was open is forgotten: the next pair begins on a clean page. */
async function mend(): Promise<void> {
  await db.deleteFrom('alertEvent').execute()
  await db.deleteFrom('message').execute()
  await db.updateTable('alert').set({ causeId: null }).execute()
  await db.deleteFrom('alert').execute()
  nowMs += APART
  const well = site.read([])
  const all = new Set<string>(touched)
  // As many as any rule looks back at.
  for (let tick = 0; tick < 6; tick += 1) await moment(well, (name) => all.has(name))
  await db.deleteFrom('alertEvent').execute()
  await db.updateTable('alert').set({ causeId: null }).execute()
  await db.deleteFrom('alert').execute()
  touched.clear()
  judgement.forget()
  causes = new Causes(db, new Notifier(randomBytes(32), 0))
}
const touched = new Set<string>()

interface Open {
  readonly id: number
  readonly causeId: number | null
  readonly title: string
  readonly causePath: string | null
  readonly sign: string
}

/** What is open, by what it is a sign of. */
async function opened(): Promise<Open[]> {
  const rows = await db
    .selectFrom('alert')
    .leftJoin('gear', 'gear.id', 'alert.gearId')
    .leftJoin('part', 'part.id', 'alert.partId')
    .leftJoin('source', 'source.id', 'alert.sourceId')
    .select(['alert.id', 'alert.causeId', 'alert.causePath', 'alert.title', 'alert.measure'])
    .select(['gear.name as gear', 'part.key as part', 'source.name as source'])
    .where('alert.clearedAt', 'is', null)
    .orderBy('alert.id')
    .execute()
  return rows.map(({ gear, part, source, measure, ...rest }) => ({
    ...rest,
    sign: gear === null ? `${source} silent` : signIn(gear, part, measure),
  }))
}
const signIn = (gear: string, part: string | null, measure: MeasureKey | null): string =>
  `${gear} ${part ?? ''} ${measure ?? ''}`

/** The signs that a fault shows, beside those that others show already. */
function signsOf(fault: MadeFault, beside: readonly MadeFault[] = []): Set<string> {
  const [before, now] = [site.read(beside), site.read([...beside, fault])]
  return new Set(
    site.gear.flatMap(({ name }) => {
      const [a, b] = [before.get(name) ?? null, now.get(name) ?? null]
      if (b === null) return a === null ? [] : [`${name} silent`]
      return [...b].flatMap(([sign, value]) => (a?.get(sign) === value ? [] : [`${name} ${sign}`]))
    }),
  )
}

const faultIn = fc.nat(site.faults.length - 1).map((index) => site.faults[index]!)
/** What touches half of the site takes long to judge: it comes, and not as often as the rest. */
const isWide = ({ kind }: MadeFault): boolean => kind === 'no output' || kind === 'no cooling'

/** A battery that runs low while its UPS is on it is the next word on that, and told as such. */
const isNextWord = (a: MadeFault, b: MadeFault): boolean =>
  a.gear === b.gear && (a.kind === 'battery' || a.kind === 'no output') && b.kind === 'battery low'

function sample<T>(arbitrary: fc.Arbitrary<T>, seed: number): T[] {
  return fc.sample(arbitrary, { numRuns: PAIRS, seed })
}

test(`${PAIRS} pairs of faults that have nothing to do with each other: both are told, none is hidden`, async () => {
  const pairs = sample(
    fc
      .record({ a: faultIn, b: faultIn, laterMs: fc.integer({ min: 0, max: 30 * MINUTE }), dice: fc.nat(9) })
      .filter(({ a, b, dice }) => {
        if ((isWide(a) || isWide(b)) && dice > 2) return false
        if (isNextWord(a, b) || isNextWord(b, a)) return false
        const [ofA, ofB] = [signsOf(a, [b]), signsOf(b, [a])]
        // Each shows something that it would show without the other, too, and that the other does not.
        return [...signsOf(a)].some((sign) => ofA.has(sign)) && [...signsOf(b)].some((sign) => ofB.has(sign))
      }),
    SEED,
  )
  const hidden: string[] = []
  for (const { a, b, laterMs } of pairs) {
    nowMs += APART
    for (const fault of [a, b]) for (const sign of signsOf(fault)) touched.add(sign.split(' ')[0]!)
    await happen([
      { fault: a, atMs: nowMs },
      { fault: b, atMs: nowMs + laterMs },
    ])
    const told = (await opened()).filter(({ causeId }) => causeId === null).map(({ sign }) => sign)
    const [ofA, ofB] = [signsOf(a), signsOf(b)]
    const [byA, byB] = [told.filter((sign) => ofA.has(sign)), told.filter((sign) => ofB.has(sign))]
    const isBoth = byA.length > 0 && byB.length > 0 && new Set([...byA, ...byB]).size > 1
    if (!isBoth)
      hidden.push(
        `${words(a)} and ${Math.round(laterMs / SECOND)} s later ${words(b)}: ${(await opened())
          .map(({ title, causePath }) => `${title} (${causePath ?? 'told'})`)
          .join('; ')}`,
      )
    await mend()
  }
  console.log(`two at once: ${pairs.length} pairs, ${hidden.length} hidden`)
  expect(hidden).toEqual([])
}, 7_200_000)

test(`${PAIRS} faults and what follows from them: at least 95 % of it is folded`, async () => {
  const faults = sample(
    fc
      .record({ fault: faultIn, dice: fc.nat(9) })
      .filter(({ fault, dice }) => (!isWide(fault) || dice < 3) && signsOf(fault).size > 1),
    SEED + 1,
  )
  let [following, folded] = [0, 0]
  const loose = new Map<string, number>()
  for (const { fault } of faults) {
    nowMs += APART
    for (const sign of signsOf(fault)) touched.add(sign.split(' ')[0]!)
    await happen([{ fault, atMs: nowMs }])
    const open = await opened()
    const roots = open.filter(({ causeId }) => causeId === null)
    following += Math.max(0, open.length - 1)
    folded += open.length - roots.length
    if (roots.length > 1) {
      const key = `${fault.kind}: ${roots.map(({ title }) => title).join('; ')}`
      loose.set(key, (loose.get(key) ?? 0) + 1)
    }
    expect(open.length, words(fault)).toBeGreaterThan(0)
    await mend()
  }
  console.log(
    `cause and consequence: ${faults.length} faults, ${following} alerts that follow, ${folded} folded (${((100 * folded) / following).toFixed(1)} %)`,
  )
  for (const [key, times] of loose) console.log(`  not folded, ${times} times: ${key.slice(0, 300)}`)
  expect(folded / following).toBeGreaterThanOrEqual(0.95)
}, 7_200_000)

const words = ({ kind, gear, part }: MadeFault): string =>
  `${kind} of ${gear}${part === null ? '' : ` ${part}`}`
