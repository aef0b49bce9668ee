import { isDeepStrictEqual } from 'node:util'
import { z } from 'zod'
import type { Failure } from '#core/sources'
import { usableIdentities } from '#core/gear'
import {
  type CheckRow,
  findCheck,
  forgetCheck,
  requestCheckRun,
  secretOfCheck,
  insertItems,
  itemsIn,
  findMapping,
  insertMapping,
  type SourceProtocol,
  insertCredential,
  listCredentials,
  insertSource,
  recordHeard,
  firstGearOf,
} from '#db/sources'
import type { MappingBody } from '#db/sources'
import type { Db } from '#db/platform'
import { findByIdentity, storeFindings, tagGearOfSource } from '#db/gear'
import { placeGearInRack } from '#db/site'
import { ensurePartitions } from '#db/readings'
import type { SecretKey } from '#db/sources'
import type { CheckForm, SaveForm } from './forms.ts'
import { factsOf, itemTree } from './itemTree.ts'
import { Refused } from '../platform/refused.ts'
import { secretOf } from './secretFields.ts'
import { within } from '#db/platform'
import { type CredentialKind, credentialKind } from '#core/sources'
import { hostIn, whyNotThere } from '#protocols/reach'
import { descriptorOf, findProtocol } from '#protocols/registry'

/**
 * Asks for a check of what was filled in. Fields of the secret that are left empty are taken from the check before.
 * @returns the id of the new check
 * @throws Refused when a field of the secret is missing
 */
export async function checkFromForm(
  db: Db,
  key: SecretKey,
  { form, requestedBy }: { form: CheckForm; requestedBy: string },
): Promise<string> {
  const before = form.before === '' ? null : await secretOfCheck(db, key, form.before)
  const credentialId = form.credential === '' ? null : Number(form.credential)
  const settings = { ...form.settings, ...(await mappingOf(db, form)) }
  const kind = kindOf(form.protocol, settings)
  if (credentialId !== null) await mayGoThere(db, credentialId, form.address)
  return requestCheckRun(db, key, {
    requestedBy,
    sourceId: null,
    protocol: form.protocol,
    address: form.address,
    settings,
    credentialId,
    secret: credentialId === null && kind !== null ? secretOf(kind, form, before) : null,
  })
}

/** @throws Refused when a kept credential is not for this address */
async function mayGoThere(db: Db, credentialId: number, address: string): Promise<void> {
  const kept = (await listCredentials(db)).find(({ id }) => id === credentialId)
  if (kept === undefined) throw new Refused('This credential has gone. Choose another.')
  const why = whyNotThere(kept, kept.kind, address)
  if (why !== null)
    throw new Refused(
      `${kept.name} is not for there; ${why}. Say under Settings, Credentials, where it may go; or enter another.`,
    )
}

/** The mapping that was chosen; where none was, the one that was being written beside the check before. */
async function mappingOf(
  db: Db,
  { mapping, protocol, drafted }: { mapping: string; protocol: string; drafted: string },
): Promise<Record<string, unknown>> {
  if (descriptorOf(protocol).mapping === null) return {}
  const earlier = drafted === '' ? undefined : await findCheck(db, drafted)
  const isSame = earlier?.protocol === protocol && String(earlier.settings['mapId'] ?? '') === mapping
  if (isSame && earlier.settings['map'] !== undefined)
    return { mapId: earlier.settings['mapId'] ?? null, map: earlier.settings['map'] }
  if (mapping === '') return { mapId: null }
  const kept = await findMapping(db, Number(mapping))
  if (kept?.protocol !== protocol) throw new Refused('This mapping has gone. Choose another.')
  return { mapId: kept.id, map: kept.body }
}

/**
 * The same check once more, by a mapping that was edited beside it.
 * @throws Refused with what is wrong in the mapping
 */
export async function mapAndCheck(
  db: Db,
  key: SecretKey,
  asked: { id: string; map: unknown; requestedBy: string },
): Promise<string> {
  const check = await findCheck(db, asked.id)
  if (check === undefined) throw new Refused('This check has gone; it is kept for an hour. Check again.')
  return requestCheckRun(db, key, {
    requestedBy: asked.requestedBy,
    sourceId: check.sourceId,
    protocol: check.protocol,
    address: check.address,
    settings: { ...check.settings, map: mappingBody(check.protocol, asked.map) },
    credentialId: check.credentialId,
    secret: await secretOfCheck(db, key, asked.id),
  })
}

/** @throws Refused with the first thing that is wrong */
export function mappingBody(protocol: SourceProtocol, given: unknown): MappingBody {
  const parsed = findProtocol(protocol)?.polled?.form.mapping?.safeParse(given)
  if (parsed === undefined) throw new Refused('This kind of source goes by no mapping.')
  if (!parsed.success) {
    const [issue] = parsed.error.issues
    const line = issue?.path.find((step) => typeof step === 'number')
    throw new Refused(
      `${line === undefined ? '' : `Line ${line + 1}: `}${issue?.message ?? 'Something is missing'}.`,
    )
  }
  return parsed.data as MappingBody
}

function trustedOf(
  { authority, fingerprint }: NonNullable<NonNullable<Awaited<ReturnType<typeof findCheck>>>['certificate']>,
  trust: 'authority' | 'fingerprint',
) {
  if (trust === 'fingerprint') return { authorityPem: null, fingerprint }
  if (authority === null)
    throw new Refused(
      'The far side did not send its authority along; trust the fingerprint, or paste the authority.',
    )
  return { authorityPem: authority.pem, fingerprint: null }
}

/**
 * The same check once more, with the authority or the fingerprint trusted that was presented.
 * @throws Refused when there is none
 */
export async function trustAndCheck(
  db: Db,
  key: SecretKey,
  asked: { id: string; trust: 'authority' | 'fingerprint'; requestedBy: string },
): Promise<string> {
  const check = await findCheck(db, asked.id)
  const certificate = check?.certificate ?? null
  if (check === undefined || certificate === null)
    throw new Refused('This check has gone; it is kept for an hour. Check again.')
  return requestCheckRun(db, key, {
    requestedBy: asked.requestedBy,
    sourceId: check.sourceId,
    protocol: check.protocol,
    address: check.address,
    settings: { ...check.settings, ...trustedOf(certificate, asked.trust) },
    credentialId: check.credentialId,
    secret: await secretOfCheck(db, key, asked.id),
  })
}

export const isCheckId = (text: string): boolean => z.uuid().safeParse(text).success

/** A check as the screen shows it. */
export async function loadCheck(db: Db, id: string) {
  const check = isCheckId(id) ? await findCheck(db, id) : undefined
  if (check === undefined) return null
  return { ...viewOf(check), known: await knownAlready(db, check) }
}

/** Which of what was found is known by another source. */
async function knownAlready(db: Db, { findings }: CheckRow) {
  const found = await Promise.all(
    (findings?.gear ?? []).map(async ({ key, identities }) => {
      const gear = await findByIdentity(db, usableIdentities(identities))
      return gear === null ? [] : [{ key, ...gear }]
    }),
  )
  return found.flat()
}

function viewOf(check: CheckRow) {
  const { findings, certificate } = check
  const values = (findings?.readings ?? []).map(({ gear, part, measure, value }) => ({
    gear,
    part,
    measure,
    value,
  }))
  const counts = (findings?.counters ?? []).map(({ gear, part }) => ({ gear, part }))
  return {
    id: check.id,
    protocol: check.protocol,
    address: check.address,
    settings: check.settings,
    credentialId: check.credentialId,
    hasOwnSecret: check.hasOwnSecret,
    isOver: check.finishedAt !== null,
    isStarted: check.startedAt !== null,
    atMs: check.finishedAt?.getTime() ?? check.requestedAt.getTime(),
    stages: check.stages,
    failure: check.failure as Failure | null,
    told: check.told,
    certificate:
      certificate === null
        ? null
        : {
            ...certificate,
            authority:
              certificate.authority === null
                ? null
                : { subject: certificate.authority.subject, fingerprint: certificate.authority.fingerprint },
          },
    tree: findings === null ? null : itemTree(itemsIn(findings), values, factsOf(findings)),
    /** Gear and part of each reading, for the cost of what is picked. */
    subjects: [...values, ...counts].map(({ gear, part }) => `${gear}\n${part ?? ''}`),
  }
}

/**
 * Keeps what was checked as a source, with what was picked of it; the readings of the check are its first.
 * @returns the id of the source
 * @throws Refused with what is to be done
 */
export async function saveChecked(db: Db, key: SecretKey, form: SaveForm): Promise<number> {
  const check = isCheckId(form.check) ? await findCheck(db, form.check) : undefined
  if (check?.findings == null || check.finishedAt === null)
    throw new Refused('This check has gone, or has found nothing. Check again.')
  const { finishedAt } = check
  const settings = calledAs(check.protocol, settingsToKeep(check.settings), form.name)
  const findings = descriptorOf(check.protocol).isNameless
    ? {
        ...check.findings,
        gear: check.findings.gear.map((gear) => ({ ...gear, name: String(settings['name']) })),
      }
    : check.findings
  const left = new Set(form.left)
  const items = itemsIn(findings).map((item) => {
    const isLeft = left.has(`${item.gearKey}\n${item.partKey ?? ''}`)
    return isLeft
      ? { ...item, state: 'left' as const, why: item.why ?? 'left out by hand' }
      : { ...item, state: 'watched' as const, why: null }
  })
  if (!items.some((item) => item.partKey === null && item.state === 'watched'))
    throw new Refused('Pick at least one gear to watch.')
  const atMs = Math.floor(finishedAt.getTime() / 1000) * 1000
  await ensurePartitions(db, atMs, atMs)
  return within(db, async (trx) => {
    const secret = check.credentialId === null ? await secretOfCheck(trx, key, check.id) : null
    const kind = kindOf(check.protocol, check.settings)
    const credentialId =
      secret === null || kind === null
        ? check.credentialId
        : await insertCredential(trx, key, {
            name: form.credentialName === '' ? `${form.name} credential` : form.credentialName,
            kind,
            secret,
            // Whoever entered it has entered it for there.
            hosts: [hostIn(check.address)],
            inClear: /^http:/i.test(check.address) ? `entered for ${check.address}` : null,
          })
    const sourceId = await insertSource(trx, {
      name: form.name,
      protocol: check.protocol,
      address: check.address,
      settings,
      intervalSeconds: form.intervalSeconds,
      newItems: form.newItems,
      credentialId,
      mappingId: await keepMapping(trx, check, form),
      token: null,
    })
    await insertItems(trx, sourceId, items)
    await storeFindings(trx, { sourceId, atMs, findings }, null)
    await recordHeard(trx, [{ sourceId, at: finishedAt, durationMs: null }])
    await tagGearOfSource(trx, sourceId, form.tags)
    if (form.rackId !== '') await placeFirst(trx, sourceId, form)
    await forgetCheck(trx, check.id)
    return sourceId
  })
}

/** Of what tells no name of itself, with the name of its source where nobody has given another. */
export function calledAs(
  protocol: string,
  settings: Record<string, unknown>,
  name: string,
): Record<string, unknown> {
  const isOpen = descriptorOf(protocol).isNameless === true && (settings['name'] ?? '') === ''
  return isOpen ? { ...settings, name } : settings
}

/** Without what is kept elsewhere, or served only to look around. */
export function settingsToKeep(settings: Record<string, unknown>): Record<string, unknown> {
  const { map: _map, mapId: _mapId, look: _look, ...rest } = settings
  return rest
}

/** The mapping that a source goes by: the kept one where it was not changed, otherwise a new one. */
async function keepMapping(
  trx: Db,
  { protocol, settings }: CheckRow,
  form: SaveForm,
): Promise<number | null> {
  const { map, mapId } = settings
  if (descriptorOf(protocol).mapping === null || map === undefined) return null
  const kept = typeof mapId === 'number' ? await findMapping(trx, mapId) : undefined
  if (kept !== undefined && isDeepStrictEqual(kept.body, map)) return kept.id
  return insertMapping(trx, {
    name: form.mappingName === '' ? `${form.name} mapping` : form.mappingName,
    protocol,
    body: mappingBody(protocol, map),
  })
}

/** Which kind of credential a source goes in with; `null` when with none. */
export function kindOf(protocol: SourceProtocol, settings: Record<string, unknown>): CredentialKind | null {
  return credentialKind(descriptorOf(protocol), (field) => {
    const value = settings[field]
    return typeof value === 'string' ? value : ''
  })
}

async function placeFirst(trx: Db, sourceId: number, form: SaveForm): Promise<void> {
  const gearId = await firstGearOf(trx, sourceId)
  if (gearId === null) return
  const placed = await placeGearInRack(trx, gearId, {
    rackId: Number(form.rackId),
    unit: form.unit,
    heightUnits: form.heightUnits,
  })
  if (placed.kind === 'occupied')
    throw new Refused('Something stands in these units already. Choose others, or place it later.')
  if (placed.kind === 'outside')
    throw new Refused(`This rack has ${placed.heightUnits} units. Choose lower ones, or place it later.`)
}
