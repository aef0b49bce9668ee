import type { Topic } from './finite.ts'

/** How long it takes from an order until it is there, as people have said it. */
export interface LeadTime {
  readonly topic: Topic
  /** Only gear with this tag, or only this gear; of both `null`: all of the topic. */
  readonly tag: string | null
  readonly gearId: number | null
  readonly days: number
}

/** Days: what was said of the gear, else the longest of its tags, else of the topic, else what ships. */
export function leadDaysOf(
  leadTimes: readonly LeadTime[],
  of: {
    readonly topic: Topic
    readonly gearId: number
    readonly tags: readonly string[]
    readonly shipped: number
  },
): number {
  const fitting = leadTimes.filter(({ topic }) => topic === of.topic)
  const own = fitting.find(({ gearId }) => gearId === of.gearId)
  if (own !== undefined) return own.days
  const tagged = fitting.filter(({ tag }) => tag !== null && of.tags.includes(tag))
  if (tagged.length > 0) return Math.max(...tagged.map(({ days }) => days))
  return fitting.find(({ tag, gearId }) => tag === null && gearId === null)?.days ?? of.shipped
}
