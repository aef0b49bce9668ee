import type { RequestEvent } from '@sveltejs/kit'
import { accountOfEmail, noteSignIn } from '#db/accounts'
import { recordHappened } from '#db/platform'
import type { At } from '../platform/auth.ts'
import { installation } from '../platform/installation.ts'
import { Few } from '#protocols/reach'

/** Where a request came from, for what signs in. */
export const atOf = ({ url, locals, request }: RequestEvent): At => ({
  origin: url.origin,
  clientAddress: locals.address,
  headers: request.headers,
})

const recorded = new Few(20, 10 * 60_000)

/**
 * Somebody tried to sign in and was refused: recorded, of one address twenty times in ten minutes at most. A mail address
 * that has no account is not written down: people type passwords into the wrong field.
 */
export async function recordRefusedSignIn(address: string, email: string | null, why: string): Promise<void> {
  if (!recorded.take(address)) return
  const { db } = installation()
  const account = email === null ? undefined : await accountOfEmail(db, email)
  await recordHappened(db, {
    kind: 'sign-in',
    outcome: 'refused',
    who: account?.name ?? 'Somebody',
    what: `was not let in: ${why}`,
    accountId: account?.id ?? null,
    address,
  })
}

/** Somebody has come in. */
export async function recordSignIn(
  { id, name }: { id: string; name: string },
  address: string,
  how: string,
): Promise<void> {
  const { db } = installation()
  await noteSignIn(db, id)
  await recordHappened(db, {
    kind: 'sign-in',
    outcome: 'done',
    who: name,
    what: `signed in ${how}`,
    accountId: id,
    address,
  })
}
