import { error } from '@sveltejs/kit'
import { mayDo, type Role, type Theme } from '#core/accounts'
import type { TemperatureScale } from '#core/units'

/** Whoever has signed in, and what they may do. */
export interface SignedIn {
  readonly id: string
  readonly name: string
  readonly email: string
  readonly role: Role
  readonly temperatures: TemperatureScale
  /** How its pages look. */
  readonly theme: Theme
  /** The session of a browser; `null` of a token. */
  readonly sessionId: string | null
}

/** Whoever asks. Every route but the open ones has been refused before it runs when nobody has signed in. */
export function signedIn({ user }: App.Locals): SignedIn {
  if (user === null) error(401, 'Sign in first.')
  return user
}

/** Whether whoever asks may do it. */
export const may = (locals: App.Locals, needed: Role): boolean => mayDo(signedIn(locals).role, needed)
