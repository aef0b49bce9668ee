import type { SunkMail } from '../mail/sink.ts'
import type { ReceivedHook, ReceivedText } from './received.ts'

const MOST_SHOWN = 40
const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' }
const escape = (text: string): string => text.replaceAll(/[&<>"]/g, (sign) => ENTITIES[sign]!)
const clock = (at: string): string => at.slice(11, 19)

/** What the stand-ins outside have received, newest first: mails as they would be read, texts, and hooks. */
export function receivedPage(received: {
  readonly mails: readonly SunkMail[]
  readonly texts: readonly ReceivedText[]
  readonly hooks: readonly ReceivedHook[]
  readonly beats: number
}): string {
  const newest = <T>(all: readonly T[]): T[] => all.slice(-MOST_SHOWN).reverse()
  const mails = newest(received.mails).map(
    ({ receivedAt, to, subject, html, text }) => `<details><summary><time>${clock(receivedAt)}</time>
      <b>${escape(subject)}</b> <span>to ${escape(to.join(', '))}</span></summary>
      ${html === '' ? `<pre>${escape(text)}</pre>` : `<iframe sandbox srcdoc="${escape(html)}"></iframe>`}</details>`,
  )
  const texts = newest(received.texts).map(
    ({ receivedAt, to, text }) =>
      `<p><time>${clock(receivedAt)}</time> <b>${escape(to)}</b><br>${escape(text)}</p>`,
  )
  const hooks = newest(received.hooks).map(
    ({ receivedAt, path, isSigned, body }) => `<details><summary><time>${clock(receivedAt)}</time>
      <b>${escape(path)}</b> <span>${isSigned ? 'signed' : 'NOT signed'}</span></summary>
      <pre>${escape(JSON.stringify(body, null, 2))}</pre></details>`,
  )
  const part = (title: string, all: readonly string[]): string =>
    `<section><h2>${title}</h2>${all.length === 0 ? '<p>Nothing yet.</p>' : all.join('\n')}</section>`
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta http-equiv="refresh" content="10">
<title>What the world outside received</title>
<style>
  body { font: 14px/1.45 sans-serif; margin: 24px; color: #1b1f23; background: #f4f3ef }
  main { display: grid; grid-template-columns: 2fr 1fr 1fr; gap: 24px }
  section { background: #fff; border: 1px solid #c9ccce; padding: 12px 16px; min-width: 0 }
  h1 { font-size: 20px } h2 { font-size: 15px; margin: 0 0 8px }
  time, span { color: #5b5f63 } summary { padding: 4px 0; cursor: pointer }
  pre { white-space: pre-wrap; overflow-wrap: anywhere } iframe { width: 100%; height: 320px; border: 1px solid #c9ccce }
</style></head>
<body><h1>What the world outside received: ${received.mails.length} mails, ${received.texts.length} text messages, ${received.hooks.length} hooks, ${received.beats} heartbeats</h1>
<main>${part('Mail', mails)}${part('Text messages', texts)}${part('Hooks', hooks)}</main></body></html>
`
}
