import nodemailer from 'nodemailer'
import { type Facts, htmlOf, plainOf, subjectOf } from '#core/callouts'
import { MEANS_FORMS } from '#db/callouts'
import type { Sending } from './sending.ts'

const CONNECT_MS = 10_000
const ANSWER_MS = 20_000

/** Mail by SMTP (RFC 5321), in plain text and HTML. Its `Message-ID` (RFC 5322 §3.6.4) is that of every try. */
export async function sendMail({ id, settings, secret, recipients }: Sending, facts: Facts): Promise<string> {
  const { host, port, from, username } = MEANS_FORMS.mail.parse(settings)
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
      messageId: `<${id}@restless-rack>`,
      from,
      to: [...recipients],
      subject: subjectOf(facts),
      text: plainOf(facts),
      html: htmlOf(facts),
    })
    return response
  } finally {
    transport.close()
  }
}
