/** What came of asking the server to do something: done, or the sentence why not. */
export type Done = { readonly kind: 'done' } | { readonly kind: 'refused'; readonly message: string }

/** Posts to one of our own routes. */
export async function post(path: string): Promise<Done> {
  const reply = await fetch(path, { method: 'POST', headers: { 'content-type': 'application/json' } }).catch(
    () => null,
  )
  if (reply === null)
    return { kind: 'refused', message: 'The server cannot be reached. Try again in a moment.' }
  if (reply.ok) return { kind: 'done' }
  const body = (await reply.json().catch(() => null)) as { message?: string } | null
  return { kind: 'refused', message: body?.message ?? `The server answered ${reply.status}.` }
}

/** Whether the server could gather a page now. */
export const isReady = (): Promise<boolean> =>
  fetch('/readyz', { cache: 'no-store' }).then(
    ({ ok }) => ok,
    () => false,
  )

export const takeAlert = (id: number): Promise<Done> => post(`/alerts/${id}/take`)
export const checkSource = (id: number): Promise<Done> => post(`/sources/${id}/check`)

/** What was moved, as a sentence, with what undoes it; or why not. */
export type MoveDone =
  | { readonly kind: 'moved'; readonly sentence: string; readonly undo: unknown }
  | { readonly kind: 'refused'; readonly message: string }

export async function postMove(move: unknown): Promise<MoveDone> {
  const reply = await fetch('/rooms/move', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(move),
  }).catch(() => null)
  if (reply === null) return { kind: 'refused', message: 'The server cannot be reached. Nothing was moved.' }
  const body = (await reply.json().catch(() => null)) as {
    message?: string
    sentence?: string
    undo?: unknown
  } | null
  return reply.ok && body?.sentence !== undefined
    ? { kind: 'moved', sentence: body.sentence, undo: body.undo }
    : { kind: 'refused', message: body?.message ?? `The server answered ${reply.status}.` }
}

export interface Found {
  readonly label: string
  readonly what: string
  readonly href: string
}

export async function findAnything(words: string, signal: AbortSignal): Promise<readonly Found[]> {
  const reply = await fetch(`/find?q=${encodeURIComponent(words)}`, { signal })
  return reply.ok ? ((await reply.json()) as Found[]) : []
}

/** What can be looked back at and fits the words; `href` is the pick as it stands in an address. */
export async function findPicks(words: string, signal: AbortSignal): Promise<readonly Found[]> {
  const reply = await fetch(`/past/picks?q=${encodeURIComponent(words)}`, { signal })
  if (!reply.ok) return []
  const found = (await reply.json()) as { pick: string; words: string; series: number }[]
  return found.map(({ pick, words: label, series }) => ({
    label,
    what: series === 1 ? 'one series' : `${series} series`,
    href: pick,
  }))
}

/** What another retention of a measure would free, in bytes; or why that cannot be said. */
export async function askFreed(asked: Record<string, string>): Promise<number | string> {
  const reply = await fetch(`/settings/space/frees?${new URLSearchParams(asked)}`).catch(() => null)
  const body = (await reply?.json().catch(() => null)) as { bytes?: number; message?: string } | null
  return body?.bytes ?? body?.message ?? 'The server cannot be reached.'
}
