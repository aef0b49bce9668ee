import type { Severity } from '../rules/index.ts'
import { formatClock } from '../units/index.ts'
import type { MessageEvent } from './callOut.ts'

/** What a message says, before it has a form. */
export interface Facts {
  readonly event: MessageEvent | 'test'
  readonly site: string
  readonly timeZone: string
  readonly title: string
  readonly reason: string
  readonly place: string | null
  readonly severity: Severity
  readonly gear: string | null
  readonly atMs: number
  readonly link: string
  /** Who is notified, in words. */
  readonly team: string
  /** The name of the call-out. */
  readonly because: string
  /** Of a step that waited, or of a message that left late: how long the alert had stood by then, in words. */
  readonly stillAfter: string | null
  /** Since when it has been so, which may be before it was noticed; absent of what is only planned. */
  readonly sinceMs?: number
  /** It is over already as the message leaves. */
  readonly overMs?: number | null
  /** Of the next word on an alert: what it follows with, another alert of the same gear. */
  readonly next?: { readonly alertId: number; readonly key: string }
}

const WORDS = { opened: 'New', worse: 'Worse', cleared: 'Cleared', test: 'Test' } as const

export const wordOf = ({ event, stillAfter, overMs }: Facts): string => {
  if (overMs != null) return 'Already over'
  return event === 'opened' && stillAfter !== null ? `Still open after ${stillAfter}` : WORDS[event]
}

export const subjectOf = (facts: Facts): string =>
  `[${facts.site}] ${wordOf(facts)}: ${facts.title}${facts.place === null ? '' : ` (${facts.place})`}`

/** A mail in plain text: the reason, where, when, and where to look. */
export const plainOf = (facts: Facts): string =>
  [
    facts.reason,
    '',
    ...linesOf(facts).map(([label, text]) => `${`${label}:`.padEnd(11)}${text}`),
    '',
    footOf(facts),
  ].join('\n')

function linesOf(facts: Facts): [string, string][] {
  return [
    ...(facts.gear === null ? [] : [['Gear', facts.gear] satisfies [string, string]]),
    ...(facts.event === 'test' ? [] : [['Severity', facts.severity] satisfies [string, string]]),
    ...(facts.place === null ? [] : [['Place', facts.place] satisfies [string, string]]),
    ...timesOf(facts),
    ['Link', facts.link],
  ]
}

/** Of what goes on since when it does, of what is over also that, of all else when it happened. */
function timesOf({ sinceMs, overMs, atMs, timeZone }: Facts): [string, string][] {
  const clock = (ms: number): string => `${formatClock(ms, timeZone)} (${timeZone})`
  if (sinceMs === undefined) return [['When', clock(atMs)]]
  return [
    ['Since', clock(sinceMs)],
    ...(overMs == null ? [] : [['Ended', clock(overMs)] satisfies [string, string]]),
  ]
}

const footOf = ({ site, team, because }: Facts): string => `${site}, sent to ${team}: ${because}`

/** The same in HTML: nothing but text, one rule and one link, so that every program for mail shows it alike. */
export function htmlOf(facts: Facts): string {
  const rows = linesOf(facts)
    .map(
      ([label, text]) =>
        `<tr><td style="padding:2px 16px 2px 0;color:#5b5f63">${label}</td><td style="padding:2px 0">${
          label === 'Link'
            ? `<a href="${escape(text)}" style="color:#1b1f23">${escape(text)}</a>`
            : escape(text)
        }</td></tr>`,
    )
    .join('')
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escape(subjectOf(facts))}</title></head>
<body style="margin:0;padding:24px;background:#ffffff;color:#1b1f23;font:15px/1.45 sans-serif">
<p style="margin:0 0 4px;color:#5b5f63">${escape(wordOf(facts))}${facts.event === 'cleared' || facts.event === 'test' ? '' : `, ${facts.severity}`}</p>
<h1 style="margin:0 0 12px;font-size:20px;line-height:1.3">${escape(facts.title)}</h1>
<p style="margin:0 0 16px">${escape(facts.reason)}</p>
<table role="presentation" cellspacing="0" cellpadding="0" style="border-top:1px solid #c9ccce;padding-top:8px">${rows}</table>
<p style="margin:16px 0 0;color:#5b5f63;font-size:13px">${escape(footOf(facts))}</p>
</body></html>
`
}

const ENTITIES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
}
const escape = (text: string): string => text.replaceAll(/[&<>"']/g, (sign) => ENTITIES[sign]!)

/** What a telephone shows in one part (3GPP TS 23.040 §9.2.3.24: 140 octets, 160 signs of 7 bits). */
const LONGEST_TEXT = 160
/** What the alphabet of texts has not (3GPP TS 23.038 §6.2.1), and what stands for it: with one of these a text has 70 signs. */
const PLAIN_SIGNS: Readonly<Record<string, string>> = {
  '\u00a0': ' ',
  '\u202f': ' ',
  '°': '',
  '·': ',',
  '–': '-',
  '’': "'",
  '“': '"',
  '”': '"',
  '…': '...',
  '²': '2',
  '³': '3',
  '×': 'x',
}
const plainSigns = (text: string): string =>
  text
    .replaceAll(/[\u00a0\u202f°·–’“”…²³×]/gu, (sign) => PLAIN_SIGNS[sign]!)
    .replaceAll(/ ?,(?= )/g, ',')
    .replaceAll(/\s+/gu, ' ')

/** A short text: where, how bad, what, since when, why as far as it fits, and the link whole. */
export function shortOf(facts: Facts): string {
  const { place, severity, event, title, sinceMs, timeZone, link, reason } = facts
  const where = place === null ? '' : `${place}: `
  const isBad = severity === 'critical' && event !== 'cleared' && facts.overMs == null
  const since = sinceMs === undefined ? '' : `, since ${formatClock(sinceMs, timeZone)}`
  const head = `${where}${wordOf(facts)}${isBad ? ', critical' : ''}: ${title}${since}.`
  return `${cut(plainSigns(`${head} ${reason}`), LONGEST_TEXT - link.length - 1)} ${link}`
}

function cut(text: string, most: number): string {
  if (text.length <= most) return text
  const end = text.lastIndexOf(' ', most - 3)
  return `${text.slice(0, end > most / 2 ? end : Math.max(0, most - 3)).trimEnd()}...`.slice(
    0,
    Math.max(0, most),
  )
}

/** A message in the forms that mail and text messages have. */
export interface Letter {
  readonly subject: string
  readonly plain: string
  readonly html: string
  readonly short: string
}

/** One message, or many in one: what is critical first, then what began first. @param all at least one */
export function letterOf(all: readonly Facts[]): Letter {
  const [first, ...others] = [...all].sort(byWeight)
  if (first === undefined) throw new RangeError('a letter has at least one message in it')
  if (others.length === 0)
    return { subject: subjectOf(first), plain: plainOf(first), html: htmlOf(first), short: shortOf(first) }
  return lettersTogether(first, [first, ...others])
}

const weightOf = ({ event, severity }: Facts): number =>
  event === 'cleared' ? 2 : severity === 'critical' ? 0 : 1
const byWeight = (a: Facts, b: Facts): number => weightOf(a) - weightOf(b) || a.atMs - b.atMs

/** “34 new, 1 worse, 3 cleared; 5 are critical” */
function countsOf(all: readonly Facts[]): string {
  const counts = new Map<string, number>()
  for (const facts of all) {
    const word =
      facts.event === 'opened' && facts.stillAfter !== null ? 'still open' : wordOf(facts).toLowerCase()
    counts.set(word, (counts.get(word) ?? 0) + 1)
  }
  const words = [...counts].map(([word, count]) => `${count} ${word}`).join(', ')
  const critical = all.filter((facts) => weightOf(facts) === 0).length
  if (critical === 0) return words
  if (critical === all.length) return `${words}, all critical`
  return `${words}; ${critical} ${critical === 1 ? 'is' : 'are'} critical`
}

function lettersTogether(first: Facts, all: readonly Facts[]): Letter {
  const counts = countsOf(all)
  const place = first.place === null ? '' : ` (${first.place})`
  const head = `${first.title}${place}, and ${all.length - 1} more`
  const link = new URL('/alerts?state=all', first.link).href
  const subject = `[${first.site}] ${head}: ${counts}`
  const opening = `${counts[0]?.toUpperCase()}${counts.slice(1)}. Sent as one message, because there are many.`
  const plain = [
    opening,
    '',
    ...all.flatMap((facts) => [...lineTogether(facts), '']),
    `All open alerts: ${link}`,
    '',
    footOf(first),
  ].join('\n')
  const rows = all
    .map((facts) => {
      const [title = '', reason = '', where = ''] = lineTogether(facts)
      return `<li style="margin:0 0 12px"><a href="${escape(facts.link)}" style="color:#1b1f23;font-weight:600">${escape(title)}</a><br>${escape(reason)}<br><span style="color:#5b5f63">${escape(where.replace(` ${facts.link}`, ''))}</span></li>`
    })
    .join('\n')
  const html = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escape(subject)}</title></head>
<body style="margin:0;padding:24px;background:#ffffff;color:#1b1f23;font:15px/1.45 sans-serif">
<h1 style="margin:0 0 12px;font-size:20px;line-height:1.3">${escape(head)}</h1>
<p style="margin:0 0 16px">${escape(opening)}</p>
<ul style="margin:0;padding:0 0 0 18px;border-top:1px solid #c9ccce;padding-top:12px">${rows}</ul>
<p style="margin:0 0 16px"><a href="${escape(link)}" style="color:#1b1f23">All open alerts</a></p>
<p style="margin:16px 0 0;color:#5b5f63;font-size:13px">${escape(footOf(first))}</p>
</body></html>
`
  const short = `${cut(plainSigns(`${counts[0]?.toUpperCase()}${counts.slice(1)}. First: ${head}.`), LONGEST_TEXT - link.length - 1)} ${link}`
  return { subject, plain, html, short }
}

/** What, why, when and where to look, of one among many. */
const lineTogether = (facts: Facts): [string, string, string] => [
  `${wordOf(facts)}${facts.severity === 'critical' && facts.event !== 'cleared' ? ', critical' : ''}: ${facts.title}${facts.place === null ? '' : ` (${facts.place})`}`,
  facts.reason,
  `${formatClock(facts.atMs, facts.timeZone)} ${facts.link}`,
]

/** What a hook receives, as JSON. `docs/callouts.md` publishes it. */
export const documentOf = (id: string, alertId: number | null, facts: Facts) => ({
  id,
  event: facts.event,
  site: facts.site,
  callOut: facts.because,
  stillAfter: facts.stillAfter,
  since: facts.sinceMs === undefined ? null : new Date(facts.sinceMs).toISOString(),
  over: facts.overMs == null ? null : new Date(facts.overMs).toISOString(),
  at: new Date(facts.atMs).toISOString(),
  alert: {
    id: alertId,
    title: facts.title,
    reason: facts.reason,
    severity: facts.severity,
    gear: facts.gear,
    place: facts.place,
    link: facts.link,
  },
})
