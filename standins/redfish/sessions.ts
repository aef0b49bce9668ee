import { randomBytes } from 'node:crypto'
import { SESSIONS } from './standard.ts'

/** As many as small controllers have; a reader that never signs out soon finds none left. */
const MOST_SESSIONS = 8
const TIMEOUT_MS = 300_000

interface Session {
  readonly id: string
  readonly token: string
  readonly username: string
  seenMs: number
}

/** The sessions of one service (DSP0266 §13.3.4). One that nobody has used for five minutes ends. */
export class Sessions {
  #last = 0
  #open: Session[] = []

  /** @returns `null` when there are as many as there may be */
  begin(username: string, nowMs: number): Session | null {
    this.#expire(nowMs)
    if (this.#open.length >= MOST_SESSIONS) return null
    this.#last += 1
    const session = {
      id: String(this.#last),
      token: randomBytes(16).toString('hex'),
      username,
      seenMs: nowMs,
    }
    this.#open.push(session)
    return session
  }

  isOpen(token: string, nowMs: number): boolean {
    this.#expire(nowMs)
    const session = this.#open.find((each) => each.token === token)
    if (session !== undefined) session.seenMs = nowMs
    return session !== undefined
  }

  /** @returns false when there is none at this path */
  end(path: string): boolean {
    const before = this.#open.length
    this.#open = this.#open.filter(({ id }) => `${SESSIONS}/${id}` !== path)
    return this.#open.length < before
  }

  /** The collection, or one of them; `undefined` elsewhere. */
  document(path: string): object | undefined {
    if (path === SESSIONS)
      return {
        Members: this.#open.map(({ id }) => ({ '@odata.id': `${SESSIONS}/${id}` })),
        'Members@odata.count': this.#open.length,
      }
    const session = this.#open.find(({ id }) => `${SESSIONS}/${id}` === path)
    return session === undefined ? undefined : { Id: session.id, UserName: session.username }
  }

  #expire(nowMs: number): void {
    this.#open = this.#open.filter(({ seenMs }) => nowMs - seenMs < TIMEOUT_MS)
  }
}
