import { beforeAll, describe, expect, test } from 'vitest'
import { addressOf, keepingWhatStands, type RefreshFailure } from './standing.ts'

const HERE = 'http://rack.example/gear/7?w=1d'
const data = (path: string, more = '') =>
  `http://rack.example${path}/__data.json?w=1d${more}&x-sveltekit-invalidated=101`
const json = (status: number, body: unknown) => new Response(JSON.stringify(body), { status })

beforeAll(() => {
  Object.assign(globalThis, { location: new URL(HERE) })
})

/** What the page gets, and what is told, when the server answers so. */
async function ask(
  answer: Response | Error,
  { url = data('/gear/7'), stands = addressOf(new URL(HERE)) as string | null } = {},
) {
  const told: (RefreshFailure | null)[] = []
  const fetcher = keepingWhatStands(
    () => (answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer)),
    () => stands,
    (failure) => told.push(failure),
  )
  const got = await fetcher(url).catch((error: unknown) => error)
  return { told, got: got instanceof Response ? ((await got.json()) as unknown) : got }
}

const KEPT = { type: 'data', nodes: [{ type: 'skip' }, { type: 'skip' }, { type: 'skip' }] }
const GOOD = { type: 'data', nodes: [{ type: 'data', data: [1] }, null, { type: 'skip' }] }

describe('a page that asks anew', () => {
  test('gets what is new', async () => {
    expect(await ask(json(200, GOOD))).toEqual({ told: [null], got: GOOD })
  })

  test.each([
    ['nothing', new Error('Failed to fetch'), { isAway: true, isSignedOut: false }],
    ['the database is away', json(500, { message: 'away', isAway: true }), { message: 'away', isAway: true }],
    ['nobody is signed in', json(401, { message: 'Sign in first.' }), { isSignedOut: true, isAway: false }],
    ['a fault of ours', json(500, { message: 'Something went wrong' }), { isAway: false }],
    ['a page of HTML', new Response('<html>', { status: 502 }), { message: 'The application answered 502.' }],
    [
      'one part that could not be gathered',
      json(200, {
        type: 'data',
        nodes: [
          { type: 'data', data: [1] },
          { type: 'error', error: { message: 'no', isAway: true } },
        ],
      }),
      { message: 'no', isAway: true },
    ],
  ])('stays as it is when there is %s', async (_, answer, failure) => {
    const { told, got } = await ask(answer)
    expect(got).toEqual(KEPT)
    expect(told).toEqual([expect.objectContaining(failure)])
  })

  test('is sent on where the server sends it', async () => {
    const redirect = { type: 'redirect', location: '/setup' }
    expect(await ask(json(200, redirect))).toEqual({ told: [null], got: redirect })
  })

  test('is known at the root, too', async () => {
    const url = 'http://rack.example/__data.json?x-sveltekit-trailing-slash=1&x-sveltekit-invalidated=11'
    const { got } = await ask(new Error('gone'), { url, stands: addressOf(new URL('http://rack.example/')) })
    expect(got).toEqual({ type: 'data', nodes: [{ type: 'skip' }, { type: 'skip' }] })
  })
})

describe('whatever comes is let through', () => {
  const bad = () => json(500, { message: 'away', isAway: true })
  test.each([
    ['for another page', { url: data('/gear/8') }],
    ['for the same page with other filters', { url: data('/gear/7', '&tab=parts') }],
    ['while another page is on its way', { stands: null }],
    ['for anything that is no page', { url: 'http://rack.example/find?q=x' }],
  ])('%s', async (_, asked) => {
    expect(await ask(bad(), asked)).toEqual({ told: [], got: { message: 'away', isAway: true } })
  })
})
