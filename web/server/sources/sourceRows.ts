import { failureSentence, freshness, spokenWords, triedAgainMs } from '#core/sources'
import { clockOf, listSources, type SourceRow } from '#db/sources'
import { listSeen } from '#db/gear'
import type { Present } from '../platform/present.ts'
import { descriptorOf } from '#protocols/registry'

/** `well`: heard, and nothing failed since. `failing`: heard lately, the last try failed. */
export type SourceState = 'well' | 'starting' | 'failing' | 'silent'

/** Sources as the screen lists them: those that are not heard first, with what is wrong in a sentence. */
export async function loadSources({ db, nowMs }: Present) {
  const [sources, seen] = await Promise.all([listSources(db), listSeen(db)])
  const gearOf = new Map<number, { id: number; name: string }[]>()
  for (const { sourceId, id, name } of seen)
    gearOf.set(sourceId, [...(gearOf.get(sourceId) ?? []), { id, name }])
  const rank: Record<SourceState, number> = { silent: 0, failing: 1, starting: 2, well: 3 }
  return sources
    .map((source) => ({
      id: source.id,
      name: source.name,
      protocol: protocolWords(source),
      isPolled: descriptorOf(source.protocol).isPolled,
      address: source.address,
      credentialName: source.credentialName,
      intervalSeconds: source.intervalSeconds,
      lastHeardMs: source.lastHeardAt?.getTime() ?? null,
      lastAttemptMs: source.lastAttemptAt?.getTime() ?? null,
      lastDurationMs: source.lastDurationMs,
      state: stateOf(source, nowMs),
      failure: source.failure === null ? null : failureSentence(source.failure),
      failedAtMs: source.failedAt?.getTime() ?? null,
      failures: source.failures,
      triedAgainMs:
        source.failedAt === null || !descriptorOf(source.protocol).isPolled
          ? null
          : triedAgainMs(source.failedAt.getTime(), {
              intervalMs: source.intervalSeconds * 1000,
              failures: source.failures,
            }),
      gear: gearOf.get(source.id) ?? [],
    }))
    .sort((a, b) => rank[a.state] - rank[b.state] || a.name.localeCompare(b.name))
}

export function stateOf(source: SourceRow, nowMs: number): SourceState {
  const heard = freshness(clockOf(source), nowMs)
  if (heard === 'silent') return 'silent'
  if (source.failure !== null) return 'failing'
  return heard === 'starting' ? 'starting' : 'well'
}

export const protocolWords = ({ protocol, settings }: SourceRow): string =>
  spokenWords(descriptorOf(protocol), settings)
