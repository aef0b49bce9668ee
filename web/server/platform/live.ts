import { listen, type LiveEvent } from '#db/platform'
import { userOf } from './auth.ts'
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

/** Pages of one account that listen at the same time: a browser needs one for all of its own. */
const MOST_OF_AN_ACCOUNT = 30
const LOOK_AGAIN_MS = 60_000
const listening = new Map<string, number>()

/**
 * A stream of server-sent events (HTML Standard §9.2): `change` with the topics, and a comment now and then. It ends with
 * the session that opened it: at once when somebody ends it, a minute later at most when it ends by itself.
 * @returns `null` when the account has too many open
 */
export function liveStream(userId: string, headers: Headers): ReadableStream<Uint8Array> | null {
  const own = listening.get(userId) ?? 0
  if (own >= MOST_OF_AN_ACCOUNT) return null
  listening.set(userId, own + 1)
  const text = new TextEncoder()
  let end: () => void = () => undefined
  return new ReadableStream({
    start(controller) {
      const send = (line: string) => controller.enqueue(text.encode(line))
      const lookAgain = () => void isStill(userId, headers).then((is) => (is ? undefined : close()))
      const unsubscribe = subscribe((change) => {
        send(`event: change\ndata: ${JSON.stringify(change)}\n\n`)
        if (change.topics.includes('accounts')) lookAgain()
      })
      const beat = setInterval(() => send(': still here\n\n'), 15_000)
      const look = setInterval(lookAgain, LOOK_AGAIN_MS)
      let isOpen = true
      const close = () => {
        if (!isOpen) return
        isOpen = false
        end()
        controller.close()
      }
      end = () => {
        isOpen = false
        end = () => undefined
        clearInterval(beat)
        clearInterval(look)
        unsubscribe()
        streams.delete(close)
        leave(userId)
      }
      streams.add(close)
      send('retry: 2000\n\n')
    },
    cancel() {
      end()
    },
  })
}

function leave(userId: string): void {
  const left = (listening.get(userId) ?? 1) - 1
  if (left === 0) listening.delete(userId)
  else listening.set(userId, left)
}

/** Whether the session is still that of the account. While the database is away nobody is sent away. */
async function isStill(userId: string, headers: Headers): Promise<boolean> {
  try {
    return (await userOf(headers))?.id === userId
  } catch {
    return true
  }
}

export async function closeLive(): Promise<void> {
  for (const close of [...streams]) close()
  clearTimeout(timer)
  await listener?.close()
  listener = null
}
