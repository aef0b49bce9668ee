/** So long nothing is typed before it is asked. */
const PAUSE_MS = 300

/** What came of it: an answer, or the sentence that says why there is none. */
export type Asked<Answer> =
  { readonly answer: Answer; readonly problem: null } | { readonly answer: null; readonly problem: string }

/**
 * Asks the server about what is being typed, once nothing more is typed for a moment.
 * @param done is told what came of it, unless something else is asked before
 * @param otherwise why there is no answer, where the server does not say
 * @returns takes it back; for an effect that runs again with each letter
 */
export function askTyped<Answer>(
  path: string,
  request: RequestInit,
  otherwise: string,
  done: (asked: Asked<Answer>) => void,
): () => void {
  const stop = new AbortController()
  const waiting = setTimeout(() => {
    fetch(path, { ...request, signal: stop.signal })
      .then(async (reply) => {
        const body = (await reply.json()) as Answer & { message?: string }
        done(
          reply.ok ? { answer: body, problem: null } : { answer: null, problem: body.message ?? otherwise },
        )
      })
      // Taken back, or the network is away: the next letter asks again.
      .catch(() => undefined)
  }, PAUSE_MS)
  return () => {
    clearTimeout(waiting)
    stop.abort()
  }
}
