import { type Db, isServerAway, within } from '#db/platform'
import type { SubjectRow } from '#db/rules'
import type { AlertWords, AlertWriter, Ending, Opening } from './alertWriter.ts'
import { keyOf, type OpenAlert, type SourceRules } from './sourceRules.ts'

/** Something that is to be written because a rule stands otherwise than its alert. */
export type Change =
  | { readonly kind: 'withdraw'; readonly id: number; readonly atMs: number }
  | { readonly kind: 'open'; readonly subject: SubjectRow; readonly what: Omit<Opening, 'subject'> }
  | {
      readonly kind: 'change'
      readonly key: string
      readonly open: OpenAlert
      readonly words: AlertWords
    }
  | { readonly kind: 'clear'; readonly key: string; readonly open: OpenAlert; readonly words: Ending }

/** So many are committed together; what else is written waits for what they lock. */
const MOST_TOGETHER = 64

/**
 * Writes what came of one moment, and keeps what is known of the source in step. Together, for a commit each takes the
 * longest by far; one after the other where one of them cannot be written, so that it keeps back itself only.
 * @throws AggregateError of what could not be written
 */
export async function writeChanges(
  db: Db,
  alerts: AlertWriter,
  known: SourceRules,
  changes: readonly Change[],
): Promise<void> {
  for (let from = 0; from < changes.length; from += MOST_TOGETHER)
    await writeSome(db, alerts, known, changes.slice(from, from + MOST_TOGETHER))
}

async function writeSome(
  db: Db,
  alerts: AlertWriter,
  known: SourceRules,
  changes: readonly Change[],
): Promise<void> {
  const before = new Map(known.open)
  try {
    await within(db, (trx) => write(trx, alerts, known, changes))
  } catch (error) {
    if (changes.length === 1 || isServerAway(error)) throw error
    known.open.clear()
    for (const [key, open] of before) known.open.set(key, open)
    await writeEach(db, alerts, known, changes, error)
  }
}

/** One by one, so that only those are lost that cannot be written. */
async function writeEach(
  db: Db,
  alerts: AlertWriter,
  known: SourceRules,
  changes: readonly Change[],
  cause: unknown,
): Promise<void> {
  const errors: unknown[] = []
  for (const change of changes)
    await within(db, (trx) => write(trx, alerts, known, [change])).catch((each: unknown) => {
      errors.push(each)
    })
  if (errors.length === 0) return
  const words = `${errors.length} of ${changes.length} changes of alerts: ${String(errors[0])}`
  throw new AggregateError(errors, words, { cause })
}

async function write(
  trx: Db,
  alerts: AlertWriter,
  known: SourceRules,
  changes: readonly Change[],
): Promise<void> {
  const clearings = changes.filter((each) => each.kind === 'clear')
  if (clearings.length > 0)
    await alerts.clearAll(
      clearings.map(({ open, words }) => ({ id: open.id, ...words })),
      trx,
    )
  for (const { key } of clearings) known.open.delete(key)
  for (const each of changes)
    if (each.kind === 'withdraw') await alerts.withdraw(each.id, each.atMs, trx)
    else if (each.kind === 'change') {
      await alerts.change(each.open.id, each.words, trx)
      const { severity, otherState } = each.words
      known.open.set(each.key, {
        ...each.open,
        severity,
        ...(otherState === undefined ? {} : { value: otherState }),
      })
    }
  await openAll(
    trx,
    alerts,
    known,
    changes.filter((each) => each.kind === 'open'),
  )
}

async function openAll(
  trx: Db,
  alerts: AlertWriter,
  known: SourceRules,
  openings: readonly Extract<Change, { kind: 'open' }>[],
): Promise<void> {
  if (openings.length === 0) return
  const notified: Notified[] = [...known.open.values()]
  const whole = openings.map(({ subject, what }) => {
    const { id: seriesId, gearId, partId, measure } = subject
    const isKnown = isPartNotified(notified, partId, what.severity)
    notified.push({ partId, severity: what.severity })
    return { ...what, subject: `series ${seriesId}`, seriesId, gearId, partId, measure, isKnown }
  })
  const ids = await alerts.openAll(whole, trx)
  for (const [
    index,
    { ruleKey, seriesId, severity, title, atMs, sinceMs, partId, value },
  ] of whole.entries()) {
    const id = ids[index]
    if (id == null) throw new Error(`an alert of ${ruleKey} is open that was not known here`)
    known.open.set(keyOf(ruleKey, seriesId), {
      id,
      severity,
      title,
      openedAtMs: atMs,
      sinceMs,
      partId,
      value: value ?? null,
    })
  }
}

type Notified = Pick<OpenAlert, 'partId' | 'severity'>

/** One trouble is one message: a part that somebody was just told about does not speak twice. */
const isPartNotified = (
  notified: readonly Notified[],
  partId: number | null,
  severity: AlertWords['severity'],
): boolean =>
  partId !== null &&
  notified.some(
    (other) => other.partId === partId && !(other.severity === 'warning' && severity === 'critical'),
  )
