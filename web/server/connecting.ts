import { z } from 'zod'
import type { Failure } from '#core/sources'
import { usableIdentities } from '#core/topology'
import { type CheckRow, findCheck, forgetCheck, requestCheckRun, secretOfCheck } from '#db/checks'
import type { Db } from '#db/connect'
import { findByIdentity, storeFindings } from '#db/findings'
import { insertItems, itemsIn } from '#db/items'
import { placeGearInRack } from '#db/places'
import { ensurePartitions } from '#db/readings'
import type { SecretKey } from '#db/secrets'
import {
  type CredentialKind,
  type SourceProtocol,
  insertCredential,
  insertSource,
  recordHeard,
} from '#db/sources'
import type { CheckForm, SaveForm } from './forms.ts'
import { factsOf, itemTree } from './itemTree.ts'
import { Refused } from './refused.ts'
import { secretOf } from './secretFields.ts'

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
  const settings = settingsOf(form)
  return requestCheckRun(db, key, {
    requestedBy,
    sourceId: null,
    protocol: form.protocol,
    address: form.address,
    settings,
    credentialId,
    secret:
      credentialId === null && form.protocol !== 'reach'
        ? secretOf(kindOf(form.protocol, settings), form, before)
        : null,
  })
}

const settingsOf = (form: CheckForm): Record<string, unknown> =>
  form.protocol !== 'snmp'
    ? {
        authorityPem: form.authorityPem === '' ? null : form.authorityPem,
        fingerprint: form.fingerprint === '' ? null : form.fingerprint,
      }
    : { version: form.version, authentication: form.authentication, privacy: form.privacy }

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
  if (asked.trust === 'authority' && certificate.authority === null)
    throw new Refused(
      'The far side did not send its authority along; trust the fingerprint, or paste the authority.',
    )
  const trusted =
    asked.trust === 'authority'
      ? { authorityPem: certificate.authority!.pem, fingerprint: null }
      : { authorityPem: null, fingerprint: certificate.fingerprint }
  return requestCheckRun(db, key, {
    requestedBy: asked.requestedBy,
    sourceId: check.sourceId,
    protocol: check.protocol,
    address: check.address,
    settings: { ...check.settings, ...trusted },
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
  const { findings, finishedAt } = check
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
  return db.transaction().execute(async (trx) => {
    const secret = check.credentialId === null ? await secretOfCheck(trx, key, check.id) : null
    const credentialId =
      secret === null
        ? check.credentialId
        : await insertCredential(trx, key, {
            name: form.credentialName === '' ? `${form.name} credential` : form.credentialName,
            kind: kindOf(check.protocol, check.settings),
            secret,
          })
    const sourceId = await insertSource(trx, {
      name: form.name,
      protocol: check.protocol,
      address: check.address,
      settings: check.settings,
      intervalSeconds: form.intervalSeconds,
      newItems: form.newItems,
      credentialId,
      token: null,
    })
    await insertItems(trx, sourceId, items)
    await storeFindings(trx, { sourceId, atMs, findings }, null)
    await recordHeard(trx, [{ sourceId, at: finishedAt, durationMs: null }])
    if (form.rackId !== '') await placeFirst(trx, sourceId, form)
    await forgetCheck(trx, check.id)
    return sourceId
  })
}

const kindOf = (protocol: SourceProtocol, settings: Record<string, unknown>): CredentialKind =>
  protocol === 'redfish' ? 'basic' : settings['version'] === 'v3' ? 'snmp-v3' : 'snmp-v2c'

async function placeFirst(trx: Db, sourceId: number, form: SaveForm): Promise<void> {
  const first = await trx
    .selectFrom('sighting')
    .select('gearId')
    .where('sourceId', '=', sourceId)
    .orderBy('gearId')
    .executeTakeFirst()
  if (first === undefined) return
  const placed = await placeGearInRack(trx, first.gearId, {
    rackId: Number(form.rackId),
    unit: form.unit,
    heightUnits: form.heightUnits,
  })
  if (placed.kind === 'occupied')
    throw new Refused('Something stands in these units already. Choose others, or place it later.')
  if (placed.kind === 'outside')
    throw new Refused(`This rack has ${placed.heightUnits} units. Choose lower ones, or place it later.`)
}
