/** Words for the severities 0 to 7 (RFC 5424 §6.2.1). */
export const SYSLOG_SEVERITIES = [
  'emergency',
  'alert',
  'critical',
  'error',
  'warning',
  'notice',
  'information',
  'debug',
] as const

/** One message of a device, as far as it says these things. */
export interface SyslogMessage {
  readonly form: 'rfc5424' | 'rfc3164' | 'bare'
  readonly facility: number
  readonly severity: number
  /** ms since the epoch; `null` where it is not said with year and zone. */
  readonly atMs: number | null
  readonly host: string | null
  readonly app: string | null
  readonly process: string | null
  readonly messageId: string | null
  /** Structured data (RFC 5424 §6.3): parameters by element. */
  readonly data: ReadonlyMap<string, ReadonlyMap<string, string>>
  readonly text: string
}

/** User-level notice, for a message without a priority (RFC 3164 §4.3.3). */
const NO_PRIORITY = 13
const LONGEST = 8192
const NO_DATA: SyslogMessage['data'] = new Map()

/** Reads a message of either form; what is of neither is a bare text. Never throws; what is too long is cut. */
export function parseSyslog(bytes: Uint8Array): SyslogMessage {
  const all = new TextDecoder().decode(bytes.subarray(0, LONGEST)).replace(/[\r\n\0]+$/, '')
  const [head, number] = /^<(\d{1,3})>/.exec(all) ?? []
  const priority = number === undefined || Number(number) > 191 ? null : Number(number)
  const rest = priority === null ? all : all.slice(head!.length)
  const graded = { facility: (priority ?? NO_PRIORITY) >> 3, severity: (priority ?? NO_PRIORITY) & 7 }
  const newer = priority === null ? null : parseNewer(rest)
  if (newer !== null) return { form: 'rfc5424', ...graded, ...newer }
  const older = parseOlder(rest)
  if (older !== null) return { form: 'rfc3164', ...graded, ...older }
  return { form: 'bare', ...graded, ...NOTHING, text: clean(rest) }
}

const NOTHING = {
  atMs: null,
  host: null,
  app: null,
  process: null,
  messageId: null,
  data: NO_DATA,
} as const
type Parsed = Omit<SyslogMessage, 'form' | 'facility' | 'severity'>

const HEADER = /^1 (\S+) (\S{1,255}) (\S{1,48}) (\S{1,128}) (\S{1,32}) /

/** After the priority of RFC 5424 §6. */
function parseNewer(text: string): Parsed | null {
  const header = HEADER.exec(text)
  if (header === null) return null
  const [whole, time, host, app, process, messageId] = header
  const said = (word: string): string | null => (word === '-' ? null : word)
  const structured = parseData(text, whole.length)
  if (structured === null) return null
  return {
    atMs: timeOf(time!),
    host: said(host!),
    app: said(app!),
    process: said(process!),
    messageId: said(messageId!),
    data: structured.data,
    // A mark of byte order may stand before a text in UTF-8 (§6.4).
    text: clean(text.slice(structured.end).replace(/^ \ufeff?/, '')),
  }
}

const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,6})?(Z|[+-]\d\d:\d\d)$/

/** RFC 3339 with at most six decimals (§6.2.3). */
function timeOf(text: string): number | null {
  if (!TIME.test(text)) return null
  const atMs = Date.parse(text)
  return Number.isNaN(atMs) ? null : atMs
}

/** Structured data from a place on; `null` when it is not as §6.3 has it. */
function parseData(text: string, start: number): { data: SyslogMessage['data']; end: number } | null {
  if (text[start] === '-') return { data: NO_DATA, end: start + 1 }
  const data = new Map<string, Map<string, string>>()
  let at = start
  while (text[at] === '[') {
    const id = /^[^\s="\]]{1,32}/.exec(text.slice(at + 1, at + 34))?.[0]
    if (id === undefined) return null
    at += 1 + id.length
    const element = new Map<string, string>()
    data.set(id, element)
    while (text[at] === ' ') {
      const name = /^[^\s="\]]{1,32}(?==")/.exec(text.slice(at + 1, at + 36))?.[0]
      if (name === undefined) return null
      at += name.length + 3
      let value = ''
      for (; at < text.length && text[at] !== '"'; at += 1) {
        if (text[at] === '\\' && /["\\\]]/.test(text[at + 1] ?? '')) at += 1
        value += text[at]
      }
      if (text[at] !== '"') return null
      element.set(name, value)
      at += 1
    }
    if (text[at] !== ']') return null
    at += 1
  }
  return at === start ? null : { data, end: at }
}

const OLDER =
  /^(?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) [ \d]\d \d\d:\d\d:\d\d (?:(\S{1,255}) )?(?:([^\s:[\]]{1,48})(?:\[([^\]\s]{1,64})\])?: ?)?/

/** After the priority of RFC 3164 §4.1. Its time has neither year nor zone, and is left. */
function parseOlder(text: string): Parsed | null {
  const found = OLDER.exec(text)
  if (found === null) return null
  const [whole, host, app, process] = found
  return {
    ...NOTHING,
    host: host ?? null,
    app: app ?? null,
    process: process ?? null,
    text: clean(text.slice(whole.length)),
  }
}

/** Control characters are shown as blanks. */
// eslint-disable-next-line no-control-regex -- they are what is looked for
const clean = (text: string): string => text.replaceAll(/[\u0000-\u001f\u007f]+/g, ' ').trim()
