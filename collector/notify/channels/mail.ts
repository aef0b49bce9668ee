import { isIP } from 'node:net'
import nodemailer from 'nodemailer'
import { type Facts, letterOf } from '#core/callouts'
import { CHANNEL_FORMS, type ChannelSettings } from '#db/callouts'
import { errorWords } from '#protocols/reach'
import { idOf, RefusedForGood, type Sending, type Sent } from './sending.ts'

const CONNECT_MS = 10_000
const ANSWER_MS = 20_000

/**
 * Mail by SMTP (RFC 5321), in plain text and HTML, marked as made by a program (RFC 3834 §5). Its `Message-ID` (RFC 5322
 * §3.6.4) is that of every try, and what is told of one alert hangs together by `References`; the ids of all messages in
 * it stand in the field `Restless-Rack-Messages` (RFC 5322 §3.6.8) when there are many.
 * @throws RefusedForGood when the server answers that it will never take it (RFC 5321 §4.2.1: 5yz)
 */
export async function sendMail(sending: Sending): Promise<Sent> {
  const { settings, secret, recipients, parts } = sending
  const { subject, plain, html } = letterOf(parts.map(({ facts }) => facts))
  const mail = CHANNEL_FORMS.mail.parse(settings)
  const transport = nodemailer.createTransport(waysOf(mail, secret))
  try {
    const { response, rejected, rejectedErrors } = await transport.sendMail({
      messageId: `<${idOf(sending)}@restless-rack>`,
      headers: {
        'Auto-Submitted': 'auto-generated',
        ...(parts.length === 1 ? {} : { 'Restless-Rack-Messages': parts.map(({ id }) => id).join(' ') }),
      },
      ...threadOf(sending),
      from: { name: nameOf(parts[0]!.facts), address: mail.from },
      to: [...recipients],
      subject,
      text: plain,
      html,
    })
    const refused = rejected.map(String)
    if (refused.length === 0) return { words: response, refused }
    const reasons = (rejectedErrors ?? []).map(({ response: answer }) => answer ?? '').filter(Boolean)
    return {
      words: `${response}; not taken for ${refused.join(', ')}: ${[...new Set(reasons)].join('; ')}`,
      refused,
    }
  } catch (error) {
    if (isForGood(error)) throw new RefusedForGood((error as Error).message, { cause: error })
    throw wordsOf(error, mail)
  } finally {
    transport.close()
  }
}

/** How a server is reached. */
export function waysOf(
  { host, port, username, tls, authorityPem }: ChannelSettings<'mail'>,
  secret: string | null,
) {
  const asks = username !== '' && secret !== null
  return {
    host,
    port,
    secure: tls === 'implicit' || port === 465,
    // A password does not go in the open, but to this machine itself.
    requireTLS: tls === 'required' || (asks && !isOwnMachine(host)),
    connectionTimeout: CONNECT_MS,
    greetingTimeout: CONNECT_MS,
    socketTimeout: ANSWER_MS,
    ...(authorityPem === '' ? {} : { tls: { ca: authorityPem } }),
    ...(asks ? { auth: { user: username, pass: secret } } : {}),
  }
}

const isOwnMachine = (host: string): boolean =>
  host === 'localhost' || host === '::1' || (isIP(host) === 4 && host.startsWith('127.'))

/** What a program for mail shows instead of the bare address. */
const nameOf = ({ site }: Facts): string => (site === '' ? 'Restless Rack' : `${site} (Restless Rack)`)

/** Of one alert: that it is new, worse and cleared stands under each other. */
function threadOf({ parts }: Sending): { references?: string; inReplyTo?: string } {
  const [only] = parts
  if (parts.length !== 1 || only!.alertId === null) return {}
  const root = `<alert-${only!.alertId}@restless-rack>`
  return { references: root, inReplyTo: root }
}

/** What is said of a letter or of all its recipients; a password that is refused may be mended, and is tried again. */
function isForGood(error: unknown): boolean {
  if (!(error instanceof Error) || !('responseCode' in error) || !('code' in error)) return false
  const { responseCode, code } = error
  return (
    typeof responseCode === 'number' && responseCode >= 500 && (code === 'EENVELOPE' || code === 'EMESSAGE')
  )
}

/** What the server answered; of one that did not, why it could not be asked. */
function wordsOf(error: unknown, { host, port }: ChannelSettings<'mail'>): unknown {
  if (!(error instanceof Error) || 'response' in error) return error
  const words = errorWords(error)
  return words === error.message
    ? error
    : new Error(`${host}:${port} cannot be reached: ${words}`, { cause: error })
}
