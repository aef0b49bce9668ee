import { type MeasureKey, measureOf, measureKeys } from '#core/catalogue'
import { failureSentence } from '#core/sources'
import {
  requestCheckRun,
  listItems,
  listItemSeries,
  pickItems,
  findMapping,
  listMappings,
  updateMapping,
  findSource,
} from '#db/sources'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import type { SecretKey } from '#db/sources'
import { loadCheck, mappingBody } from './connecting.ts'
import { checkForm } from './forms.ts'
import { firstProblem } from '../platform/fields.ts'
import { itemTree, type Valued } from './itemTree.ts'
import { Refused } from '../platform/refused.ts'
import { protocolWords, stateOf } from './sourceRows.ts'
import { descriptorOf } from '#protocols/registry'

/** A source with everything that it has shown, picked or not, and what each says now. */
export async function loadSourcePage(db: Db, id: number, checkId: string | null, nowMs: number) {
  const source = await findSource(db, id)
  if (source === undefined) return null
  const [items, series, latest, check] = await Promise.all([
    listItems(db, id),
    listItemSeries(db, id),
    latestReadings(db, [id]),
    checkId === null ? null : loadCheck(db, checkId),
  ])
  const state = stateOf(source, nowMs)
  const values: Valued[] = series.map(({ id: seriesId, ...each }) => {
    const newest = state === 'silent' ? undefined : latest.get(seriesId)
    return { ...each, value: newest?.value ?? null, ...(newest === undefined ? {} : { atMs: newest.atMs }) }
  })
  const waiting = items.filter((item) => item.state === 'waiting')
  const gone = items.filter((item) => item.goneAt !== null && item.state === 'watched')
  return {
    source: {
      id,
      name: source.name,
      protocol: protocolWords(source),
      isPolled: descriptorOf(source.protocol).isPolled,
      address: source.address,
      credentialName: source.credentialName,
      mapping: await mappingOf(db, source.mappingId),
      intervalSeconds: source.intervalSeconds,
      newItems: source.newItems,
      state,
      lastHeardMs: source.lastHeardAt?.getTime() ?? null,
      lastDurationMs: source.lastDurationMs,
      failure: source.failure === null ? null : failureSentence(source.failure),
      series: series.length,
      slower: source.slower,
      measures: measuresOf(series),
    },
    check,
    tree: itemTree(items, values, new Map(), nowMs),
    waiting: waiting.map((item) => item.name),
    gone: gone.map((item) => item.name),
    left: items.filter((item) => item.state === 'left').length,
  }
}

/** The measures of a source with how many series each has, in the order of the catalogue. */
function measuresOf(series: readonly { readonly measure: MeasureKey }[]) {
  const counts = new Map<MeasureKey, number>()
  for (const { measure } of series) counts.set(measure, (counts.get(measure) ?? 0) + 1)
  return measureKeys().flatMap((key) => {
    const count = counts.get(key)
    return count === undefined ? [] : [{ key, label: measureOf(key).label, count }]
  })
}

/** Asks for a staged check of a source as it is kept. @returns its id, or `null` when it is not one that is asked */
export async function askAgain(
  db: Db,
  key: SecretKey,
  { sourceId, requestedBy }: { sourceId: number; requestedBy: string },
): Promise<string | null> {
  const source = await findSource(db, sourceId)
  if (source === undefined || !descriptorOf(source.protocol).isPolled) return null
  return requestCheckRun(db, key, {
    requestedBy,
    sourceId,
    protocol: source.protocol,
    address: source.address,
    settings: { ...source.settings, ...(await mappingSettings(db, source.mappingId)) },
    credentialId: source.credentialId,
    secret: null,
  })
}

/**
 * Asks for a check of another address in the way a source is asked: same protocol, settings, credential and mapping.
 * @returns the id of the check
 * @throws Refused when the address is not one of this protocol
 */
export async function checkAnother(
  db: Db,
  key: SecretKey,
  asked: { sourceId: number; address: string; requestedBy: string },
): Promise<string> {
  const source = await findSource(db, asked.sourceId)
  if (source === undefined || !descriptorOf(source.protocol).isPolled)
    throw new Refused('This source is not asked, but pushes.')
  const parsed = checkForm.safeParse({ protocol: source.protocol, address: asked.address, version: 'v2c' })
  if (!parsed.success) throw new Refused(firstProblem(parsed.error))
  // What one certificate or one name stands for does not stand for the other.
  const { fingerprint: _fingerprint, name: _name, ...settings } = source.settings
  return requestCheckRun(db, key, {
    requestedBy: asked.requestedBy,
    sourceId: null,
    protocol: source.protocol,
    address: parsed.data.address,
    settings: { ...settings, ...(await mappingSettings(db, source.mappingId)) },
    credentialId: source.credentialId,
    secret: null,
  })
}

/** The mapping of a source, and how many others go by it. */
async function mappingOf(db: Db, id: number | null) {
  const mapping = id === null ? undefined : (await listMappings(db)).find((each) => each.id === id)
  if (mapping === undefined) return null
  return { name: mapping.name, isShipped: mapping.isShipped, others: mapping.sources - 1 }
}

async function mappingSettings(db: Db, id: number | null): Promise<Record<string, unknown>> {
  const mapping = id === null ? undefined : await findMapping(db, id)
  return mapping === undefined ? {} : { mapId: mapping.id, map: mapping.body }
}

/**
 * Changes the mapping that a source goes by, for all that go by it.
 * @returns its name
 * @throws Refused when something is wrong in it
 */
export async function changeMapping(db: Db, sourceId: number, given: unknown): Promise<string> {
  const source = await findSource(db, sourceId)
  const mapping = source?.mappingId == null ? undefined : await findMapping(db, source.mappingId)
  if (mapping === undefined) throw new Refused('This source goes by no mapping.')
  if (mapping.isShipped)
    throw new Refused(
      `${mapping.name} came along and stays as it is. Connect it with a map of your own to change it.`,
    )
  await updateMapping(db, mapping.id, mappingBody(mapping.protocol, given))
  return mapping.name
}

/** @returns what changed, in a few words */
export async function changePicks(db: Db, sourceId: number, left: readonly string[]): Promise<string> {
  const out = new Set(left)
  const items = await listItems(db, sourceId)
  const picks = items
    .map((item) => ({ ...item, isWatched: !out.has(`${item.gearKey}\n${item.partKey ?? ''}`) }))
    .filter((item) => (item.state === 'watched') !== item.isWatched || item.state === 'waiting')
  await pickItems(db, sourceId, picks)
  const on = picks.filter((pick) => pick.isWatched).length
  return `${on} picked, ${picks.length - on} left out`
}
