import { type Handle, type HandleServerError, redirect, type RequestEvent } from '@sveltejs/kit'
import { mayDo, type Role } from '#core/accounts'
import { sayInputWords } from '#protocols/driver'
import { hasAccounts } from '#db/accounts'
import { isServerAway, recordHappened } from '#db/platform'
import { neededRole } from './server/platform/access.ts'
import { Few } from '#protocols/reach'
import { userOf, userOfToken } from './server/platform/auth.ts'
import type { SignedIn } from './server/platform/signedIn.ts'
import { closeInstallation, doors, installation } from './server/platform/installation.ts'
import { readIn } from './server/platform/reader.ts'
import { ownMeasures } from './server/readings/ownMeasures.ts'
import { closeLive } from './server/platform/live.ts'
import { clientAddress, hasNul, mostBytes, originProblem } from './server/platform/doors.ts'

sayInputWords()

const HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'same-origin',
  'permissions-policy': 'camera=(), geolocation=(), microphone=()',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
}

/** For a year, as who reads it should come by TLS only (RFC 6797). */
const BY_TLS_ONLY = 'max-age=31536000'
/** What looks whether the process lives asks it by its address. */
const PROBES = new Set(['/healthz', '/readyz'])

function isWithin({ headers }: Request, bytes: number): boolean {
  if (bytes === Infinity) return true
  if (headers.has('transfer-encoding')) return false
  return Number(headers.get('content-length') ?? 0) <= bytes
}

/** Every request: who is it, may they do this, and is it really from our own pages. */
export const handle: Handle = async ({ event, resolve }) => {
  const refused = await refusal(event)
  const temperatures = event.locals.user?.temperatures ?? 'celsius'
  const response =
    refused === null ? await readIn(temperatures, () => resolve(event)) : answerTo(event, refused)
  for (const [name, value] of Object.entries(HEADERS)) response.headers.set(name, value)
  if (doors().isBehindTls) response.headers.set('strict-transport-security', BY_TLS_ONLY)
  if (!response.headers.has('cache-control')) response.headers.set('cache-control', 'no-store')
  return response
}

async function refusal(event: RequestEvent): Promise<Refusal | null> {
  const { request, url, route } = event
  event.locals.user = null
  event.locals.address = clientAddress(
    doors(),
    event.getClientAddress(),
    request.headers.get('x-forwarded-for'),
  )
  const problem = PROBES.has(url.pathname) ? null : originProblem(doors(), url)
  if (problem !== null) return refuse(421, problem)
  if (hasNul(url)) return refuse(400, 'The address holds a character that no text has (NUL). Take it out.')
  const changes = request.method !== 'GET' && request.method !== 'HEAD'
  const token = tokenOf(request.headers)
  // A browser sends cookies by itself, wherever the request comes from; a token it does not.
  if (changes && token === null && request.headers.get('origin') !== url.origin)
    return refuse(403, 'This request did not come from a page of this installation.')
  const most = mostBytes(route.id)
  if (changes && !isWithin(request, most))
    return refuse(413, `A request has at most ${most} bytes here, and says how many.`)
  const action = [...url.searchParams.keys()].find((name) => name.startsWith('/'))?.slice(1) ?? null
  const needed = neededRole(route.id, request.method, action)
  if (needed === null) return null
  if (token !== null && changes)
    return refuse(403, 'A token reads. What changes something is done by a person who has signed in.')
  const user = token === null ? await userOf(request.headers) : await userOfToken(token)
  if (user === null && token !== null)
    return refuse(401, 'This token is not known, has ended, or its account is switched off.')
  if (user === null) {
    const isPage = !changes && (request.headers.get('accept') ?? '').includes('text/html')
    if (!isPage) return refuse(401, 'Sign in first.')
    if (!(await hasAccounts(installation().db))) redirect(303, '/setup')
    redirect(303, `/sign-in?to=${encodeURIComponent(url.pathname + url.search)}`)
  }
  event.locals.user = user
  await ownMeasures(installation().db)
  if (mayDo(user.role, needed)) return null
  await recordRefusal(event, user, needed)
  const message = `This needs the right to ${needed}; your account may ${user.role}.`
  return { status: 403, message, needs: needed }
}

/** A token goes in the header (RFC 6750 §2.1), never in an address. */
function tokenOf(headers: Headers): string | null {
  return /^Bearer ([\w~+/.-]{1,200}=*)$/i.exec(headers.get('authorization') ?? '')?.[1] ?? null
}

const recorded = new Few(20, 10 * 60_000)

/** Of one account at most so many in ten minutes: who tries everything is seen, and does not fill the record. */
async function recordRefusal(
  { request, url, locals }: RequestEvent,
  user: SignedIn,
  needed: Role,
): Promise<void> {
  if (!recorded.take(user.id)) return
  await recordHappened(installation().db, {
    kind: 'refusal',
    outcome: 'refused',
    who: user.name,
    what:
      `tried ${request.method} ${url.pathname}${url.search}`.slice(0, 300) +
      `, which needs the right to ${needed}`,
    accountId: user.id,
    address: locals.address,
  })
}

interface Refusal {
  readonly status: number
  readonly message: string
  /** Whoever has signed in has not this right. */
  readonly needs?: Role
}
const refuse = (status: number, message: string): Refusal => ({ status, message })

/** To a person who opens an address a page with the sentence and a way on, to programs JSON. */
function answerTo(event: RequestEvent, { status, message, needs }: Refusal): Response {
  const { request } = event
  const toPage = needs === undefined ? null : `/not-allowed?needs=${needs}`
  const isByScript = request.headers.get('x-sveltekit-action') === 'true'
  if (toPage !== null && event.isDataRequest) return Response.json({ type: 'redirect', location: toPage })
  if (toPage !== null && !isByScript && (request.headers.get('accept') ?? '').includes('text/html'))
    return new Response(null, { status: 303, headers: { location: toPage } })
  if (request.method !== 'GET' || !(request.headers.get('accept') ?? '').includes('text/html'))
    return new Response(JSON.stringify({ message }), {
      status,
      headers: { 'content-type': 'application/json' },
    })
  const text = message.replaceAll('&', '&amp;').replaceAll('<', '&lt;')
  const page = `<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta name="color-scheme" content="light dark"><title>Restless Rack</title></head>
<body><main><h1>Not opened.</h1><p>${text}</p><p><a href="/">To the first page</a></p></main></body>
</html>
`
  return new Response(page, { status, headers: { 'content-type': 'text/html;charset=utf-8' } })
}

/** What a person reads when something breaks: never a stack, never a secret. */
export const handleError: HandleServerError = ({ error: thrown, status, message }) => {
  if (isServerAway(thrown))
    return { message: 'The database is away. Readings are kept by the collector meanwhile.', isAway: true }
  if (status === 500) console.error(thrown)
  return {
    message: status === 500 ? 'Something went wrong here. The log of the web process says what.' : message,
  }
}

process.on('sveltekit:shutdown' as never, () => {
  void closeLive().then(closeInstallation)
})
