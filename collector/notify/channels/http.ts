import { errorWords } from '#protocols/reach'

const ANSWER_MS = 15_000
const MOST_ANSWER = 200
/** Of an answer so much is read; the rest is left where it is. */
const MOST_READ = 16 * 1024

/**
 * Posts and gives the answer in a line: `200 accepted`. Redirects are not followed: what is told must not go elsewhere.
 * @throws Error in words, with the answer of a server that does not accept it
 */
export async function post(
  url: string,
  body: string,
  headers: Readonly<Record<string, string>>,
): Promise<string> {
  let answer: Response
  try {
    answer = await fetch(url, {
      method: 'POST',
      body,
      headers,
      redirect: 'manual',
      signal: AbortSignal.timeout(ANSWER_MS),
    })
  } catch (error) {
    throw new Error(`${new URL(url).host} cannot be reached: ${reasonOf(error)}`, { cause: error })
  }
  const words = (await beginningOf(answer)).replaceAll(/\s+/gu, ' ').trim().slice(0, MOST_ANSWER)
  const line = `${answer.status} ${words}`.trim()
  if (answer.ok) return line
  if (answer.status >= 300 && answer.status < 400)
    throw new Error(`${line}: it points elsewhere, which is not followed; enter the final address`)
  throw new Error(`not accepted: ${line}`)
}

/** The beginning of an answer, which may be large, slow or without an end. */
async function beginningOf({ body }: Response): Promise<string> {
  if (body === null) return ''
  const reader = body.getReader()
  const chunks: Uint8Array[] = []
  let size = 0
  try {
    while (size < MOST_READ) {
      const { done, value } = await reader.read()
      if (done) break
      chunks.push(value.subarray(0, MOST_READ - size))
      size += value.byteLength
    }
  } catch {
    // It broke off or took too long: what came is what there is.
  } finally {
    await reader.cancel().catch(() => undefined)
  }
  return Buffer.concat(chunks).toString('utf8')
}

function reasonOf(error: unknown): string {
  if (!(error instanceof Error)) return String(error)
  if (error.name === 'TimeoutError') return `no answer within ${ANSWER_MS / 1000} s`
  return errorWords(error.cause instanceof Error ? error.cause : error)
}
