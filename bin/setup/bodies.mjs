// What is under way to the web process: so many at a time, each for so long, and who sends next to nothing makes room.

/** A form is sent within this; files of readings come piece by piece and are held to a pause in between. */
const BODY_MS = 30_000
/** Of each kind at a time: files take long, and are not in the way of forms. */
const MOST_FORMS = 100
const MOST_FILES = 20
/** Where large files come in. */
const FILES = /^\/(readings|gear\/inventory|sources\/many|rooms)\b/
/** A file that has come for so long, and brought less than so much a second, is no file. */
const FILE_MS = 5000
const FILE_BYTES_A_SECOND = 1024
/** Who is answered before all was sent, because they may not, has so long to read that. */
const LAST_WORD_MS = 1000

/** @typedef {import('node:http').IncomingMessage} Request */
/** @typedef {import('node:http').ServerResponse} Response */

/**
 * Bodies under way, the oldest first: when they began, what their connection had brought by then, and how they are let go.
 * @type {Map<Request, { beganMs: number, bytes: number, isFile: boolean, over: () => void }>}
 */
const underWay = new Map()

/**
 * Bounds how many bodies are under way, and for how long. Where there are too many the one that brings least is cut: a
 * form is here at once, and what is held open on purpose is in the way of nobody. What is answered before it has come whole
 * is not waited for.
 * @param {Request} request
 * @param {Response} response
 * @returns whether there is room for it
 */
export function holdBody(request, response) {
  const isFile = FILES.test(request.url ?? '')
  const alike = [...underWay].filter(([, each]) => each.isFile === isFile)
  if (alike.length >= (isFile ? MOST_FILES : MOST_FORMS) && !cutSlowest(alike)) return false
  const cut = setTimeout(() => !request.complete && !isFile && request.destroy(), BODY_MS)
  const stall = () => request.destroy()
  if (isFile) request.socket.setTimeout(BODY_MS).once('timeout', stall)
  const over = () => {
    if (!underWay.delete(request)) return
    clearTimeout(cut)
    // Its connection goes on: what was set for this body is taken off it.
    request.socket.off('timeout', stall)
    if (isFile && request.complete) request.socket.setTimeout(0)
  }
  underWay.set(request, { beganMs: Date.now(), bytes: request.socket.bytesRead, isFile, over })
  request.once('end', over)
  request.once('close', over)
  response.once('finish', () => {
    if (request.complete) return
    over()
    setTimeout(() => !request.complete && request.destroy(), LAST_WORD_MS)
  })
  return true
}

/**
 * @param {readonly [Request, { beganMs: number, bytes: number, isFile: boolean, over: () => void }][]} alike
 * @returns whether there was one that may be cut
 */
function cutSlowest(alike) {
  const now = Date.now()
  /** @type {{ request: Request, over: () => void, pace: number } | null} */
  let slowest = null
  for (const [request, { beganMs, bytes, isFile, over }] of alike) {
    const seconds = Math.max(1, now - beganMs) / 1000
    const pace = (request.socket.bytesRead - bytes) / seconds
    // What has come whole only waits for its turn.
    if (request.complete) continue
    if (isFile && (seconds * 1000 < FILE_MS || pace >= FILE_BYTES_A_SECOND)) continue
    if (slowest === null || pace < slowest.pace) slowest = { request, over, pace }
  }
  if (slowest === null) return false
  slowest.over()
  slowest.request.destroy()
  return true
}
