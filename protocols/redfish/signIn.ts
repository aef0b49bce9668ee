import { z } from 'zod'
import { endpointOf, FetchFailure, type HttpTarget, remove, getJson, postJson } from '#protocols/http'
import { addressOf, printable } from '#protocols/reach'

/** How a reading shows who it is: with each request, or by a session that lasts as long as the reading. */
export const signInSchema = z.enum(['basic', 'session'])

export interface Account {
  readonly signIn: z.infer<typeof signInSchema>
  readonly username: string
  readonly password: string
}

/** What may be asked of Redfish without a credential (DSP0266 §6.2, §13.3.1). */
export const ROOT = '/redfish/v1/'
/** Where sessions are made when the root does not say (DSP0266 §13.3.4.2). */
const SESSIONS = '/redfish/v1/SessionService/Sessions'
const linked = z.object({ Links: z.object({ Sessions: z.object({ '@odata.id': z.string() }) }) })
/** A session is ended even where a reading ran out of time: controllers have few. */
const SIGN_OUT_MS = 3000

/**
 * Does its work signed in (DSP0266 §13.3): by basic authentication, or by a session that is ended afterwards.
 * @param service `open`: it, without who asks; `root`: the same for its root, which says nothing of a credential
 */
export async function signedIn<T>(
  { open, root }: { readonly open: HttpTarget; readonly root: HttpTarget },
  account: Account,
  work: (http: HttpTarget) => Promise<T>,
): Promise<T> {
  const trace = open.trace && { ...open.trace, credential: `user ${account.username}` }
  const as = (headers: Readonly<Record<string, string>>): HttpTarget => ({
    ...open,
    headers: { ...open.headers, ...headers },
    ...(trace === undefined ? {} : { trace }),
  })
  if (account.signIn === 'basic') {
    const token = Buffer.from(`${account.username}:${account.password}`).toString('base64')
    return withHint(work(as({ authorization: `Basic ${token}` })))
  }
  const { token, path } = await begin(as({}), root, account)
  const http = as({ 'x-auth-token': token })
  try {
    return await work(http)
  } finally {
    // What cannot be ended ends by itself, and is no reason to lose what was read.
    if (path !== null)
      await remove({ ...http, signal: AbortSignal.timeout(SIGN_OUT_MS) }, path).catch(() => undefined)
  }
}

async function begin(
  http: HttpTarget,
  root: HttpTarget,
  { username, password }: Account,
): Promise<{ token: string; path: string | null }> {
  const said = linked.safeParse(await getJson(root, ROOT))
  const at = said.success ? said.data.Links.Sessions['@odata.id'] : SESSIONS
  const { headers } = await postJson(http, at, { UserName: username, Password: password })
  const token = headers['x-auth-token']
  if (typeof token !== 'string' || token === '' || !/^[\x21-\x7e]+$/.test(token))
    throw new FetchFailure({
      kind: 'malformed',
      address: addressOf(endpointOf(new URL(http.origin))),
      detail: `it made a session at ${printable(at)} and named no token of it`,
    })
  return { token, path: typeof headers.location === 'string' ? headers.location : null }
}

/** Some services take no name and password with a request, and say so by the same refusal. */
async function withHint<T>(work: Promise<T>): Promise<T> {
  try {
    return await work
  } catch (error) {
    if (!(error instanceof FetchFailure) || error.failure.kind !== 'credentialsRefused') throw error
    const hint =
      'Check user and password; a read-only account is enough. If both are right, its controller may take sessions only: choose so under Sign-in.'
    throw new FetchFailure({ ...error.failure, hint })
  }
}
