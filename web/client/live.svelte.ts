/* eslint-disable svelte/prefer-svelte-reactivity -- these sets are gathered and emptied; no screen shows them */
import { getContext, setContext } from 'svelte'
import type { RefreshFailure } from './standing'
import { type Change, openStream } from './stream'
import { GAP } from './topics'

const LEAST_PAUSE_MS = 1500

/**
 * The clock and the event stream of one open screen. `nowMs` ticks each second from the server's own time, so that a
 * wrong clock of the browser shows no wrong age.
 */
export class Live {
  nowMs = $state(0)
  isConnected = $state(true)
  /** Why the screen could not be brought up to date, and since when: what is shown is as of then. */
  failed = $state<(RefreshFailure & { readonly sinceMs: number }) | null>(null)
  #offsetMs = 0
  /** When any source was heard last, as far as this page has been told. */
  heardMs = $state<number | null>(null)
  readonly #listeners = new Set<(change: Change) => void>()

  constructor(serverNowMs: number) {
    this.nowMs = serverNowMs
  }

  /** Takes the server's time as of an answer just received. */
  settle(serverNowMs: number): void {
    this.#offsetMs = serverNowMs - Date.now()
    this.nowMs = serverNowMs
  }

  /** Takes what came of asking anew. */
  refreshed(failure: RefreshFailure | null): void {
    this.failed = failure && { ...failure, sinceMs: this.failed?.sinceMs ?? this.nowMs }
  }

  onChange(listener: (change: Change) => void): () => void {
    this.#listeners.add(listener)
    return () => this.#listeners.delete(listener)
  }

  /** Opens the stream. What comes in quick succession is told together. @returns how to close it */
  open(): () => void {
    const ticking = setInterval(() => {
      this.nowMs = Date.now() + this.#offsetMs
    }, 1000)
    const waiting = { topics: new Set<string>(), sourceIds: new Set<number>() }
    let timer: ReturnType<typeof setTimeout> | undefined
    const gather = (change: Change): void => {
      change.topics.forEach((topic) => waiting.topics.add(topic))
      change.sourceIds.forEach((id) => waiting.sourceIds.add(id))
      timer ??= setTimeout(() => {
        timer = undefined
        const told = { topics: [...waiting.topics], sourceIds: [...waiting.sourceIds] }
        waiting.topics.clear()
        waiting.sourceIds.clear()
        if (told.topics.includes('readings')) this.heardMs = this.nowMs
        for (const listener of this.#listeners) listener(told)
      }, LEAST_PAUSE_MS)
    }
    const close = openStream((said) => {
      if (said.kind === 'change') return gather(said.change)
      // What was said meanwhile was not heard.
      if (said.is && !this.isConnected) gather({ topics: [GAP], sourceIds: [] })
      this.isConnected = said.is
    })
    return () => {
      clearInterval(ticking)
      clearTimeout(timer)
      close()
    }
  }
}

const KEY = Symbol('live')
export const provideLive = (live: Live): Live => setContext(KEY, live)
export const useLive = (): Live => getContext<Live>(KEY)
