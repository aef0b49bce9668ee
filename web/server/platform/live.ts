import { listen, type LiveEvent } from '#db/platform'
import { installation } from './installation.ts'
import { GAP } from '../../client/topics.ts'

/** What changed within a pause: topics, and the sources that brought readings or changed themselves. */
export interface Change {
  readonly topics: readonly (LiveEvent['topic'] | typeof GAP)[]
  readonly sourceIds: readonly number[]
}
type Subscriber = (change: Change) => void

const PAUSE_MS = 400

let listener: { close(): Promise<void> } | null = null
const subscribers = new Set<Subscriber>()
const streams = new Set<() => void>()
const pending = { topics: new Set<LiveEvent['topic'] | typeof GAP>(), sourceIds: new Set<number>() }
let timer: NodeJS.Timeout | undefined

/** Gathers what happens within a short pause into one word to each open screen. */
function gather(event: LiveEvent | { readonly topic: typeof GAP }): void {
  pending.topics.add(event.topic)
  if ('sourceId' in event) pending.sourceIds.add(event.sourceId)
  timer ??= setTimeout(() => {
    timer = undefined
    const change = { topics: [...pending.topics], sourceIds: [...pending.sourceIds] }
    pending.topics.clear()
    pending.sourceIds.clear()
    for (const tell of subscribers) tell(change)
  }, PAUSE_MS)
}

function subscribe(subscriber: Subscriber): () => void {
  listener ??= listen(installation().databaseUrl, gather, () => gather({ topic: GAP }))
  subscribers.add(subscriber)
  return () => subscribers.delete(subscriber)
}

/** A stream of server-sent events (HTML Standard §9.2): `change` with the topics, and a comment now and then. */
export function liveStream(): ReadableStream<Uint8Array> {
  const text = new TextEncoder()
  let end: () => void = () => undefined
  return new ReadableStream({
    start(controller) {
      const send = (line: string) => controller.enqueue(text.encode(line))
      const unsubscribe = subscribe((change) => send(`event: change\ndata: ${JSON.stringify(change)}\n\n`))
      const beat = setInterval(() => send(': still here\n\n'), 15_000)
      const close = () => {
        end()
        controller.close()
      }
      end = () => {
        clearInterval(beat)
        unsubscribe()
        streams.delete(close)
      }
      streams.add(close)
      send('retry: 2000\n\n')
    },
    cancel() {
      end()
    },
  })
}

export async function closeLive(): Promise<void> {
  for (const close of [...streams]) close()
  clearTimeout(timer)
  await listener?.close()
  listener = null
}
