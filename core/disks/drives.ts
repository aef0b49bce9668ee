import { formatReading } from '../catalogue/index.ts'
import { formatNumber } from '../units/index.ts'
import { byKey } from './byKey.ts'
import { ROLE } from './role.ts'

/** What is known of a drive now. What is not told is `null`. */
export interface Drive {
  readonly partId: number
  readonly name: string
  readonly gearId: number
  readonly gear: string
  /** Which drives are lost together when too many of them fail; by gear and pool. */
  readonly group: string | null
  readonly model: string | null
  readonly serial: string | null
  readonly partNumber: string | null
  readonly capacityBytes: number | null
  /** The three truths: what its electronics report, what it is to its group, and what it expects of itself. */
  readonly state: number | null
  readonly role: number | null
  readonly predicts: boolean | null
  readonly isReadOnly: boolean
  /** 0..1; by the drive's own word, or by what was written of what its maker promises. */
  readonly lifeLeft: number | null
  readonly lifeFrom: 'drive' | 'rating' | null
  /** Of its endurance, beyond 1 where it goes on. */
  readonly used: number | null
  readonly celsius: number | null
  readonly spareMargin: number | null
  readonly mediaErrors: number | null
  readonly reallocated: number | null
  readonly pending: number | null
  readonly uncorrectable: number | null
  readonly powerOnHours: number | null
  readonly writtenBytes: number | null
  readonly writtenADay: number | null
  readonly ratedBytes: number | null
  /** When it is worn out, and how sure: 10, 50 and 90 %; `null`: later than two years, or too early to say. */
  readonly wornMs: number | null
  readonly wornEarlyMs: number | null
  readonly wornLateMs: number | null
  readonly orderByMs: number | null
}

/** What is wrong with a drive, the gravest first. */
export interface DriveTrouble {
  readonly severity: 'critical' | 'warning' | null
  /** “reports itself failed; 9 % of its life left” */
  readonly words: readonly string[]
}

const NEARLY_WORN = 0.25
const WORN = 0.05
/** A drive with its run-out within so long is near its end. */
const DAY_MS = 86_400_000
const NEAR_MS = 120 * DAY_MS

/**
 * Of one severity what somebody would act on first stands first. That its group is degraded or has failed is no trouble
 * of a drive that works: it is said once, of the group.
 */
export function troubleOf(drive: Drive, nowMs: number): DriveTrouble {
  const critical: string[] = []
  const warning: string[] = []
  const add = (isSo: boolean, words: string, to = warning): void => {
    if (isSo) to.push(words)
  }
  add(drive.state === 2, 'reports itself failed', critical)
  add(drive.role === ROLE.failed, 'its group has thrown it out', critical)
  add(drive.isReadOnly, 'takes no more writes', critical)
  add(drive.predicts === true, 'predicts its own failure', critical)
  add(drive.spareMargin !== null && drive.spareMargin < 0, 'its spare is under the threshold', critical)
  const life = drive.lifeLeft
  if (life !== null && life < NEARLY_WORN) {
    const words =
      drive.used !== null && drive.used > 1
        ? `${formatReading('hw.drive.used', drive.used)} of its endurance used`
        : `${formatReading('hw.drive.life_left', life)} of its life left`
    add(true, words, life < WORN ? critical : warning)
  }
  if (drive.wornMs !== null && drive.wornMs < nowMs + NEAR_MS) {
    const days = Math.max(0, Math.round((drive.wornMs - nowMs) / DAY_MS))
    add(true, days === 0 ? 'worn out' : `worn out in ${days} ${days === 1 ? 'day' : 'days'}`)
  }
  add(drive.state === 1, 'reports itself degraded')
  add(drive.role === ROLE.rebuilding, 'rebuilding')
  add(drive.role === ROLE.ofAnother, 'belongs to another array')
  const count = (value: number | null, words: string): void =>
    add((value ?? 0) > 0, `${formatNumber(value ?? 0, 0)} ${words}`)
  count(drive.pending, 'sectors wait to be reallocated')
  count(drive.uncorrectable, 'uncorrectable errors')
  count(drive.mediaErrors, 'media errors')
  return {
    severity: critical.length > 0 ? 'critical' : warning.length > 0 ? 'warning' : null,
    words: [...critical, ...warning],
  }
}

/** Whether a drive is to be replaced soon, and would be missed beside another one. */
export const isNearItsEnd = (drive: Drive, nowMs: number): boolean =>
  troubleOf(drive, nowMs).severity === 'critical' ||
  (drive.lifeLeft !== null && drive.lifeLeft < NEARLY_WORN) ||
  (drive.wornMs !== null && drive.wornMs < nowMs + NEAR_MS)

export interface DrivesTogether {
  readonly group: string
  readonly gearId: number
  readonly drives: readonly Drive[]
  readonly sentence: string
}

const names = (drives: readonly Drive[]): string => {
  const all = drives.map(({ name }) => name)
  return all.length > 4
    ? `${all.slice(0, 3).join(', ')} and ${all.length - 3} more`
    : `${all.slice(0, -1).join(', ')} and ${all.at(-1)}`
}

/** Groups in which two drives or more near their end at once: a risk that none of them is by itself. */
export function groupsAtRisk(drives: readonly Drive[], nowMs: number): DrivesTogether[] {
  const near = drives.filter((drive) => drive.group !== null && isNearItsEnd(drive, nowMs))
  return [...byKey(near, ({ group }) => group!)]
    .filter(([, all]) => all.length > 1)
    .map(([group, all]) => {
      const [first] = all
      const isBatch = all.every((each) => each.partNumber !== null && each.partNumber === first!.partNumber)
      return {
        group,
        gearId: first!.gearId,
        drives: all,
        sentence: `${names(all)} of ${group} near their end together${isBatch ? `, of one batch (${first!.partNumber})` : ''}: replace one, let it rebuild, then the next.`,
      }
    })
    .sort((a, b) => b.drives.length - a.drives.length || a.group.localeCompare(b.group))
}

export interface Batch {
  readonly model: string
  readonly partNumber: string | null
  readonly drives: readonly Drive[]
  /** Hours powered on, the fewest and the most of them; `null` where none tells. */
  readonly hours: readonly [number, number] | null
  readonly leastLife: number | null
  readonly inTrouble: number
}

/** Powered on for as long, to within so many hours, is of one age. */
const ONE_AGE_HOURS = 500

/**
 * Drives of one model that came together: of one part number, or powered on for as long. What fails in one of them is
 * likely in the others.
 */
export function batchesOf(drives: readonly Drive[], nowMs: number): Batch[] {
  const batches: Drive[][] = []
  for (const all of byKey(
    drives.filter(({ model }) => model !== null),
    ({ model, partNumber }) => `${model}\n${partNumber ?? ''}`,
  ).values()) {
    if (all[0]!.partNumber !== null) {
      batches.push(all)
      continue
    }
    const aged = all
      .filter(({ powerOnHours }) => powerOnHours !== null)
      .sort((a, b) => a.powerOnHours! - b.powerOnHours!)
    let batch: Drive[] = []
    for (const drive of aged) {
      if (batch.length > 0 && drive.powerOnHours! - batch[0]!.powerOnHours! > ONE_AGE_HOURS) {
        batches.push(batch)
        batch = []
      }
      batch.push(drive)
    }
    batches.push(batch)
  }
  return batches
    .filter((all) => all.length > 1)
    .map((all) => {
      const hours = all.flatMap(({ powerOnHours }) => powerOnHours ?? [])
      const lives = all.flatMap(({ lifeLeft }) => lifeLeft ?? [])
      return {
        model: all[0]!.model!,
        partNumber: all[0]!.partNumber,
        drives: all,
        hours: hours.length === 0 ? null : ([Math.min(...hours), Math.max(...hours)] as const),
        leastLife: lives.length === 0 ? null : Math.min(...lives),
        inTrouble: all.filter((drive) => troubleOf(drive, nowMs).severity !== null).length,
      }
    })
    .sort(
      (a, b) =>
        b.inTrouble - a.inTrouble ||
        (a.leastLife ?? 1) - (b.leastLife ?? 1) ||
        b.drives.length - a.drives.length,
    )
}

export interface Replacement {
  readonly drive: Drive
  /** When the new one must be ordered; `null`: at once. */
  readonly orderByMs: number | null
  readonly why: string
}

/** Who is to be replaced within so many days, in the order in which to do it. */
export function replacements(drives: readonly Drive[], nowMs: number, withinDays: number): Replacement[] {
  const untilMs = nowMs + withinDays * DAY_MS
  return drives
    .flatMap((drive): Replacement[] => {
      const { severity, words } = troubleOf(drive, nowMs)
      if (severity === 'critical') return [{ drive, orderByMs: null, why: words.join('; ') }]
      if (drive.wornMs === null || drive.wornMs > untilMs) return []
      return [
        {
          drive,
          orderByMs: drive.orderByMs ?? drive.wornMs,
          why: words.length === 0 ? 'wears out' : words.join('; '),
        },
      ]
    })
    .sort(
      (a, b) =>
        (a.orderByMs ?? -Infinity) - (b.orderByMs ?? -Infinity) ||
        (a.drive.lifeLeft ?? 1) - (b.drive.lifeLeft ?? 1) ||
        a.drive.gear.localeCompare(b.drive.gear),
    )
}

/** Times that a drive is written full in a day; `null` where it is not known. */
export const writesADay = ({ writtenADay, capacityBytes }: Drive): number | null =>
  writtenADay === null || capacityBytes === null || capacityBytes <= 0 ? null : writtenADay / capacityBytes

/** What matters of all drives, in words. */
export function disksSentence(drives: readonly Drive[], nowMs: number): string {
  if (drives.length === 0)
    return 'No drive is known yet. Drives appear with the servers and arrays that hold them.'
  const bad = drives.filter((drive) => troubleOf(drive, nowMs).severity === 'critical')
  const worn = drives.filter((drive) => !bad.includes(drive) && isNearItsEnd(drive, nowMs))
  const groups = groupsAtRisk(drives, nowMs)
  const all = `${drives.length} ${drives.length === 1 ? 'drive' : 'drives'}`
  if (bad.length === 0 && worn.length === 0) return `All ${all} are well.`
  const parts = [
    ...(bad.length === 0
      ? []
      : [`${bad.length} of ${all} ${bad.length === 1 ? 'needs' : 'need'} replacing now`]),
    ...(worn.length === 0
      ? []
      : [
          `${worn.length}${bad.length === 0 ? ` of ${all}` : ''} ${worn.length === 1 ? 'is' : 'are'} near ${worn.length === 1 ? 'its' : 'their'} end`,
        ]),
    ...(groups.length === 0
      ? []
      : [`in ${groups.length === 1 ? groups[0]!.group : `${groups.length} groups`} more than one at once`]),
  ]
  return `${parts.join(', ')}.`
}
