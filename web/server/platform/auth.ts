import { verify } from '@node-rs/argon2'
import { betterAuth } from 'better-auth'
import { admin, twoFactor } from 'better-auth/plugins'
import { genericOAuth } from 'better-auth/plugins/generic-oauth'
import { AsyncLocalStorage } from 'node:async_hooks'
import { Kysely, PostgresDialect } from 'kysely'
import { asRole, isTheme, type Role } from '#core/accounts'
import { isTemperatureScale } from '#core/units'
import { type Directory, hashPassword, signingSecret, tokenHolder } from '#db/accounts'
import { Tries } from '../accounts/tries.ts'
import { doors, installation } from './installation.ts'
import type { SignedIn } from './signedIn.ts'

const CLIENT_ADDRESS = 'x-rack-client-address'
/** Where a directory sends the browser back to, as the issuer has to know it. */
export const BACK_FROM_DIRECTORY = '/sign-in/directory/back'

/** By which directory, opened under which origin. */
interface By {
  readonly directory: Directory
  readonly origin: string
}

/** What the directory says of whoever comes from it, while they do. */
interface Coming {
  /** `undefined` until it has said anything that could be verified. */
  role: Role | null | undefined
}
const coming = new AsyncLocalStorage<Coming>()

function directoryPlugin({ directory, origin }: By) {
  return genericOAuth({
    config: [
      {
        providerId: 'directory',
        discoveryUrl: `${directory.issuer.replace(/\/$/, '')}/.well-known/openid-configuration`,
        clientId: directory.clientId,
        clientSecret: directory.clientSecret,
        scopes: ['openid', 'profile', 'email', ...directory.scopes],
        redirectURI: `${origin}${BACK_FROM_DIRECTORY}`,
        pkce: true,
        requireIdTokenVerification: true,
        mapProfileToUser: (profile) => {
          const role = directory.roleOf(profile)
          const who = coming.getStore()
          if (who !== undefined) who.role = role
          if (role === null) throw new Error('none of its groups may come in')
          const { name, email, preferred_username: username } = profile as Record<string, string | undefined>
          return { name: name ?? username ?? email ?? 'Somebody', emailVerified: true }
        },
      },
    ],
  })
}

function make(by: By | null) {
  const { pool, key } = installation()
  return betterAuth({
    appName: 'Restless Rack',
    // Its tables have camelCase columns: it gets a view of the database without our plugin.
    database: { db: new Kysely({ dialect: new PostgresDialect({ pool }) }), type: 'postgres' },
    secret: signingSecret(key),
    baseURL: by?.origin ?? 'http://rack.invalid',
    trustedOrigins: (request) => (request === undefined ? [] : [new URL(request.url).origin]),
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      password: { hash: hashPassword, verify: ({ hash, password }) => verify(hash, password) },
    },
    user: {
      additionalFields: {
        role: { type: 'string', required: true, input: false },
        temperatures: { type: 'string', required: false, input: false },
        theme: { type: 'string', required: false, input: false },
      },
    },
    session: { expiresIn: 12 * 3600, updateAge: 3600 },
    // Whoever runs this has said which directory to believe, so it may speak for accounts with the same mail address.
    account: { accountLinking: { enabled: true, trustedProviders: ['directory'] } },
    // What a directory gives us for asking it more is not needed, and so not kept.
    databaseHooks: {
      account: {
        create: {
          before: (account) =>
            Promise.resolve({ data: { ...account, accessToken: null, refreshToken: null, idToken: null } }),
        },
        update: {
          before: (account) =>
            Promise.resolve({ data: { ...account, accessToken: null, refreshToken: null, idToken: null } }),
        },
      },
    },
    plugins: [
      admin({ defaultRole: 'see', bannedUserMessage: 'switched off' }),
      twoFactor({ issuer: 'Restless Rack', totpOptions: { digits: 6, period: 30 } }),
      ...(by === null ? [] : [directoryPlugin(by)]),
    ],
    rateLimit: {
      enabled: true,
      storage: 'database',
      window: 60,
      max: 300,
      customRules: {
        '/sign-in/email': { window: 60, max: 10 },
        '/two-factor/*': { window: 60, max: 10 },
      },
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
const auth = () => (made ??= make(null))

/** Who a browser's request comes from, or `null`. */
export async function userOf(headers: Headers): Promise<SignedIn | null> {
  const found = await auth().api.getSession({ headers })
  if (found === null) return null
  const { session, user } = found
  const {
    id,
    name,
    email,
    role,
    banned,
    temperatures: scale,
    theme: look,
  } = user as typeof user & { banned?: boolean | null }
  if (banned === true) return null
  const temperatures = isTemperatureScale(scale) ? scale : 'celsius'
  const theme = isTheme(look) ? look : 'system'
  return { id, name, email, role: asRole(role), temperatures, theme, sessionId: session.id }
}

/** Who a program's request comes from, or `null`. */
export async function userOfToken(token: string): Promise<SignedIn | null> {
  const holder = await tokenHolder(installation().db, token)
  return holder === undefined
    ? null
    : { ...holder, temperatures: 'celsius', theme: 'system', sessionId: null }
}

const tries = new Tries()

/** Where a request came from, for what the library counts by. */
export interface At {
  readonly origin: string
  readonly clientAddress: string
  /** Of the browser that asks. */
  readonly headers: Headers
}

export type SignInOutcome =
  | { readonly kind: 'in'; readonly cookies: readonly string[]; readonly userId: string }
  | { readonly kind: 'secondFactor'; readonly cookies: readonly string[] }
  | { readonly kind: 'wrong' }
  | { readonly kind: 'off' }
  | { readonly kind: 'tooMany'; readonly retrySeconds: number }

type Library = ReturnType<typeof make>

/**
 * Asks the library through its own request handler, which is where its rate limit counts. The address it counts by is the
 * one the server saw, never one that the client sent.
 */
function ask(library: Library, at: At, path: string, body: object | null): Promise<Response> {
  const headers: Record<string, string> = { origin: at.origin, [CLIENT_ADDRESS]: at.clientAddress }
  for (const name of ['cookie', 'user-agent']) {
    const value = at.headers.get(name)
    if (value !== null) headers[name] = value
  }
  if (body !== null) headers['content-type'] = 'application/json'
  return library.handler(
    new Request(new URL(`/api/auth${path}`, at.origin), {
      method: body === null ? 'GET' : 'POST',
      headers,
      ...(body === null ? {} : { body: JSON.stringify(body) }),
    }),
  )
}

interface Answered {
  readonly code?: string
  readonly twoFactorRedirect?: boolean
  readonly user?: { readonly id: string }
  readonly url?: string
}
const read = async (reply: Response): Promise<Answered> => (await reply.json().catch(() => ({}))) as Answered

async function outcomeOf(reply: Response): Promise<SignInOutcome> {
  if (reply.status === 429)
    return { kind: 'tooMany', retrySeconds: Number(reply.headers.get('x-retry-after') ?? 60) }
  const { code, twoFactorRedirect, user } = await read(reply)
  if (reply.ok && twoFactorRedirect === true)
    return { kind: 'secondFactor', cookies: reply.headers.getSetCookie() }
  if (reply.ok && user !== undefined)
    return { kind: 'in', cookies: reply.headers.getSetCookie(), userId: user.id }
  return { kind: code === 'BANNED_USER' ? 'off' : 'wrong' }
}

export async function signIn(
  at: At,
  credential: { email: string; password: string },
): Promise<SignInOutcome> {
  const retrySeconds = tries.waitSeconds(credential.email)
  if (retrySeconds > 0) return { kind: 'tooMany', retrySeconds }
  // What a browser still carries of a session before is none of this one.
  const bare = { ...at, headers: new Headers({ 'user-agent': at.headers.get('user-agent') ?? '' }) }
  const outcome = await outcomeOf(await ask(auth(), bare, '/sign-in/email', credential))
  if (outcome.kind === 'in' || outcome.kind === 'secondFactor') tries.right(credential.email)
  if (outcome.kind === 'wrong') tries.wrong(credential.email)
  return outcome
}

/** The second step: a code of the moment, or one of those that were written down. */
export async function signInBySecondFactor(at: At, code: string): Promise<SignInOutcome> {
  const isOfTheMoment = /^\d{6}$/.test(code)
  const path = isOfTheMoment ? '/two-factor/verify-totp' : '/two-factor/verify-backup-code'
  return outcomeOf(await ask(auth(), at, path, { code }))
}

/** Ends the session on the server; the cookies in the answer wipe those of the browser. */
export async function signOut(headers: Headers): Promise<readonly string[]> {
  const reply = await auth().api.signOut({ headers, asResponse: true })
  return reply.headers.getSetCookie()
}

/** What whoever has signed in does with their own account. */
export type OwnOutcome<Done> =
  | { readonly kind: 'done'; readonly cookies: readonly string[]; readonly done: Done }
  | { readonly kind: 'wrong' }
  | { readonly kind: 'tooMany'; readonly retrySeconds: number }

async function own<Done>(at: At, path: string, body: object): Promise<OwnOutcome<Done>> {
  const reply = await ask(auth(), at, path, body)
  if (reply.status === 429)
    return { kind: 'tooMany', retrySeconds: Number(reply.headers.get('x-retry-after') ?? 60) }
  if (!reply.ok) return { kind: 'wrong' }
  return { kind: 'done', cookies: reply.headers.getSetCookie(), done: (await reply.json()) as Done }
}

/** Changes it, and ends every session but a new one of this browser. */
export const changePassword = (at: At, currentPassword: string, newPassword: string) =>
  own<object>(at, '/change-password', { currentPassword, newPassword, revokeOtherSessions: true })

/** Begins it: it is in force when a first code was right. */
export const beginSecondFactor = (at: At, password: string) =>
  own<{ readonly totpURI: string; readonly backupCodes: readonly string[] }>(at, '/two-factor/enable', {
    password,
    method: 'totp',
  })

export const confirmSecondFactor = (at: At, code: string) =>
  own<object>(at, '/two-factor/verify-totp', { code })

export const endSecondFactor = (at: At, password: string) =>
  own<object>(at, '/two-factor/disable', { password })

/** New ones; those before are void. */
export const newRecoveryCodes = (at: At, password: string) =>
  own<{ readonly backupCodes: readonly string[] }>(at, '/two-factor/generate-backup-codes', { password })

const libraries = new Map<string, Library>()
const MOST_LIBRARIES = 8

/** An instance that knows a directory; another one whenever what is set of it is another. */
function libraryOf(by: By): Library {
  const key = JSON.stringify([by.origin, by.directory.version])
  const known = libraries.get(key)
  if (known !== undefined) return known
  if (libraries.size >= MOST_LIBRARIES) libraries.clear()
  const library = make(by)
  libraries.set(key, library)
  return library
}

/** Where the browser goes to sign in with the directory; `null` when the directory cannot be asked now. */
export async function toDirectory(
  at: At,
  directory: Directory,
): Promise<{ url: string; cookies: readonly string[] } | null> {
  const library = libraryOf({ directory, origin: at.origin })
  const reply = await ask(library, at, '/sign-in/social', {
    provider: 'directory',
    callbackURL: '/',
    errorCallbackURL: '/sign-in',
    disableRedirect: true,
  })
  const { url } = await read(reply)
  if (!reply.ok || url === undefined) return null
  return { url, cookies: reply.headers.getSetCookie() }
}

export type DirectoryOutcome =
  | { readonly kind: 'in'; readonly cookies: readonly string[]; readonly role: Role }
  | { readonly kind: 'noGroup' }
  | { readonly kind: 'refused' }

/** What came of it, when the directory has sent the browser back. @param search of the address it was sent to */
export async function backFromDirectory(
  at: At,
  directory: Directory,
  search: string,
): Promise<DirectoryOutcome> {
  const who: Coming = { role: undefined }
  const library = libraryOf({ directory, origin: at.origin })
  const reply = await coming.run(who, () => ask(library, at, `/callback/directory${search}`, null))
  const cookies = reply.headers.getSetCookie()
  const isIn = cookies.some((line) => /session_token=[^;]/.test(line))
  if (isIn && who.role != null) return { kind: 'in', cookies, role: who.role }
  return { kind: who.role === null ? 'noGroup' : 'refused' }
}
