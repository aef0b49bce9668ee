import nodemailer from 'nodemailer'
import { letterOf } from '#core/callouts'
import { CHANNEL_FORMS } from '#db/callouts'
import { idOf, type Sending } from './sending.ts'

const CONNECT_MS = 10_000
const ANSWER_MS = 20_000

/**
 * Mail by SMTP (RFC 5321), in plain text and HTML. Its `Message-ID` (RFC 5322 §3.6.4) is that of every try; the ids of all
 * messages in it stand in the field `Restless-Rack-Messages` (RFC 5322 §3.6.8) when there are many.
 */
export async function sendMail(sending: Sending): Promise<string> {
  const { settings, secret, recipients, parts } = sending
  const { subject, plain, html } = letterOf(parts.map(({ facts }) => facts))
  const { host, port, from, username } = CHANNEL_FORMS.mail.parse(settings)
  const transport = nodemailer.createTransport({
    host,
    port,
    secure: port === 465,
    connectionTimeout: CONNECT_MS,
    greetingTimeout: CONNECT_MS,
    socketTimeout: ANSWER_MS,
    ...(username === '' || secret === null ? {} : { auth: { user: username, pass: secret } }),
  })
  try {
    const { response } = await transport.sendMail({
      messageId: `<${idOf(sending)}@restless-rack>`,
      ...(parts.length === 1
        ? {}
        : { headers: { 'Restless-Rack-Messages': parts.map(({ id }) => id).join(' ') } }),
      from,
      to: [...recipients],
      subject,
      text: plain,
      html,
    })
    return response
  } finally {
    transport.close()
  }
}
