import type { LiveEvent } from '#db/platform'
import { CLOCK, topicKey } from '../../client/topics.ts'

type Depends = (...keys: `${string}:${string}`[]) => void

/** Says what a load was made from: it is asked again when one of these topics changes, and not otherwise. */
export function hears(depends: Depends, ...topics: (LiveEvent['topic'] | typeof CLOCK)[]): void {
  depends(...topics.map((topic) => topicKey(topic)))
}

/** It was made from readings of these sources. */
export function hearsSources(depends: Depends, sourceIds: Iterable<number>): void {
  depends(...[...sourceIds].map((id) => topicKey('readings', id)))
}
