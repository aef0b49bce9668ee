/** What happened within a moment: topics, and the sources that brought readings or changed themselves. */
export interface Change {
  readonly topics: readonly string[]
  readonly sourceIds: readonly number[]
}

export type Said =
  { readonly kind: 'connected'; readonly is: boolean } | { readonly kind: 'change'; readonly change: Change }

const AGAIN_MS = 5000

/** Hears the server's events, and tries again for as long as it is wanted: somebody may sign in again. @returns how to close it */
export function hearServer(tell: (said: Said) => void): () => void {
  let stream: EventSource
  let timer: ReturnType<typeof setTimeout> | undefined
  const open = (): void => {
    stream = new EventSource('/live')
    stream.addEventListener('open', () => tell({ kind: 'connected', is: true }))
    stream.addEventListener('error', () => {
      tell({ kind: 'connected', is: false })
      // Whoever was refused is not connected again by the browser.
      if (stream.readyState === EventSource.CLOSED) timer = setTimeout(open, AGAIN_MS)
    })
    stream.addEventListener('change', ({ data }: MessageEvent<string>) =>
      tell({ kind: 'change', change: JSON.parse(data) as Change }),
    )
  }
  open()
  return () => {
    clearTimeout(timer)
    stream.close()
  }
}

/** How often a page says that it is still there. */
export const HERE_MS = 30_000

/**
 * Hears the server's events by one connection for all pages of this browser: it opens six to one host at most by
 * HTTP/1.1, so that a seventh page would wait for ever. @returns how to close it
 */
export function openStream(tell: (said: Said) => void): () => void {
  if (typeof SharedWorker === 'undefined') return hearServer(tell)
  const worker = new SharedWorker(new URL('./streamWorker.ts', import.meta.url), {
    type: 'module',
    name: 'events of the server',
  })
  const { port } = worker
  port.onmessage = ({ data }: MessageEvent<Said>) => tell(data)
  const here = (): void => port.postMessage('here')
  here()
  const timer = setInterval(here, HERE_MS)
  return () => {
    clearInterval(timer)
    port.postMessage('gone')
    port.close()
  }
}
