import { verify } from '@node-rs/argon2'
import { betterAuth } from 'better-auth'
import { createHmac } from 'node:crypto'
import { Kysely, PostgresDialect } from 'kysely'
import { asRole } from '#core/accounts'
import { hashPassword } from '#db/accounts'
import { Tries } from '../accounts/tries.ts'
import { doors, installation } from './installation.ts'

const CLIENT_ADDRESS = 'x-rack-client-address'

function make() {
  const { pool, key } = installation()
  return betterAuth({
    // Its tables have camelCase columns: it gets a view of the database without our plugin.
    database: { db: new Kysely({ dialect: new PostgresDialect({ pool }) }), type: 'postgres' },
    // Signs cookies; derived, so that the key that seals credentials signs nothing.
    secret: createHmac('sha256', key).update('session cookies').digest('hex'),
    baseURL: 'http://rack.invalid',
    trustedOrigins: (request) => (request === undefined ? [] : [new URL(request.url).origin]),
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      password: { hash: hashPassword, verify: ({ hash, password }) => verify(hash, password) },
    },
    user: { additionalFields: { role: { type: 'string', required: true, input: false } } },
    session: { expiresIn: 12 * 3600, updateAge: 3600 },
    rateLimit: {
      enabled: true,
      storage: 'database',
      window: 60,
      max: 300,
      customRules: { '/sign-in/email': { window: 60, max: 10 } },
    },
    advanced: {
      ipAddress: { ipAddressHeaders: [CLIENT_ADDRESS] },
      useSecureCookies: doors().isBehindTls,
      cookiePrefix: 'rack',
      // Our migrations make its tables. It would remember for ever that they were missing when it looked too early.
      database: { validateSchema: false },
    },
    telemetry: { enabled: false },
    logger: { level: 'error' },
  })
}

let made: ReturnType<typeof make> | null = null
const auth = () => (made ??= make())

/** Who a request comes from, or `null`. */
export async function userOf(headers: Headers): Promise<App.Locals['user']> {
  const session = await auth().api.getSession({ headers })
  if (session === null) return null
  const { id, name, email, role } = session.user
  return { id, name, email, role: asRole(role) }
}

const tries = new Tries()

export type SignInOutcome =
  | { readonly kind: 'in'; readonly cookies: readonly string[] }
  | { readonly kind: 'wrong' }
  | { readonly kind: 'tooMany'; readonly retrySeconds: number }

/**
 * Signs in through the library's own request handler, which is where its rate limit counts. The address it counts by
 * is the one the server saw, never one that the client sent.
 */
export async function signIn(
  at: { origin: string; clientAddress: string },
  credential: { email: string; password: string },
): Promise<SignInOutcome> {
  const retrySeconds = tries.waitSeconds(credential.email)
  if (retrySeconds > 0) return { kind: 'tooMany', retrySeconds }
  const reply = await (
    await auth()
  ).handler(
    new Request(new URL('/api/auth/sign-in/email', at.origin), {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: at.origin, [CLIENT_ADDRESS]: at.clientAddress },
      body: JSON.stringify(credential),
    }),
  )
  if (reply.ok) tries.right(credential.email)
  if (reply.ok) return { kind: 'in', cookies: reply.headers.getSetCookie() }
  if (reply.status === 429)
    return { kind: 'tooMany', retrySeconds: Number(reply.headers.get('x-retry-after') ?? 60) }
  tries.wrong(credential.email)
  return { kind: 'wrong' }
}

/** Ends the session on the server; the cookies in the answer wipe those of the browser. */
export async function signOut(headers: Headers): Promise<readonly string[]> {
  const reply = await auth().api.signOut({ headers, asResponse: true })
  return reply.headers.getSetCookie()
}
