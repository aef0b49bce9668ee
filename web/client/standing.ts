/** Why a page that is open could not be brought up to date. */
export interface RefreshFailure {
  /** A sentence for whoever reads the page. */
  readonly message: string
  /** The database, or the whole application, does not answer, and may again. */
  readonly isAway: boolean
  /** The session has ended; nothing comes until somebody signs in. */
  readonly isSignedOut: boolean
}

interface Node {
  readonly type: 'data' | 'skip' | 'error'
  readonly error?: { readonly message?: string; readonly isAway?: boolean }
}
interface Answer {
  readonly type: string
  readonly nodes?: readonly (Node | null)[]
}

/** SvelteKit asks for the data of a page at its path with this ending, and says in this parameter which parts it wants. */
const DATA = '/__data.json'
const WANTED = 'x-sveltekit-invalidated'
const WITH_SLASH = 'x-sveltekit-trailing-slash'

/** The page whose data a request asks for; `null` when it asks for anything else. */
function pageAskedFor(
  input: RequestInfo | URL,
): { readonly address: string; readonly wanted: string } | null {
  const url = new URL(input instanceof Request ? input.url : input, location.origin)
  const wanted = url.searchParams.get(WANTED)
  if (!url.pathname.endsWith(DATA) || wanted === null) return null
  url.searchParams.delete(WANTED)
  url.searchParams.delete(WITH_SLASH)
  const path = url.pathname.slice(0, -DATA.length) || '/'
  return { address: addressOf({ pathname: path, searchParams: url.searchParams }), wanted }
}

/** An address without what only says where in the page one is; parameters in one way of writing them. */
export const addressOf = ({ pathname, searchParams }: Pick<URL, 'pathname' | 'searchParams'>): string =>
  `${pathname}?${new URLSearchParams(searchParams)}`

const failure = (
  status: number,
  said: { message?: string; isAway?: boolean } | undefined,
): RefreshFailure => ({
  message: said?.message ?? `The application answered ${status}.`,
  isAway: said?.isAway === true,
  isSignedOut: status === 401,
})

const UNREACHABLE: RefreshFailure = {
  message: 'The application does not answer.',
  isAway: true,
  isSignedOut: false,
}

/** What is wrong with an answer; `null` when every part of the page is in it. */
async function failureOf(reply: Response): Promise<RefreshFailure | null> {
  const text = await reply.clone().text()
  const [first = ''] = text.split('\n', 1)
  let answer: Answer & { message?: string; isAway?: boolean }
  try {
    answer = JSON.parse(first) as typeof answer
  } catch {
    return failure(reply.status, undefined)
  }
  if (!reply.ok) return failure(reply.status, answer)
  const bad = answer.nodes?.find((node) => node?.type === 'error')
  return bad === undefined ? null : failure(500, bad?.error)
}

/** An answer by which every part of the page stays as it is. */
function unchanged(wanted: string): Response {
  const nodes = Array.from(wanted, (): Node => ({ type: 'skip' }))
  return new Response(JSON.stringify({ type: 'data', nodes } satisfies Answer), {
    headers: { 'content-type': 'application/json' },
  })
}

/**
 * A `fetch` that never lets an error take the place of a page that is open: when the page asks anew and the answer is
 * no page, or none comes, everything stays as it is and the failure is told instead. A page that is asked for the first
 * time is let through, whatever comes.
 * @param stands the address (`addressOf`) of what stands on the screen; `null` while another page is on its way
 * @param tell after each asking anew: why it failed, or `null` when it did not
 */
export function keepingWhatStands(
  fetcher: typeof fetch,
  stands: () => string | null,
  tell: (failure: RefreshFailure | null) => void,
): typeof fetch {
  return async (input, init) => {
    const asked = pageAskedFor(input)
    if (asked === null || asked.address !== stands()) return fetcher(input, init)
    const reply = await fetcher(input, init).catch(() => null)
    const failed = reply === null ? UNREACHABLE : await failureOf(reply)
    tell(failed)
    return failed === null ? reply! : unchanged(asked.wanted)
  }
}
