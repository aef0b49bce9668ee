import { letterOf } from '#core/callouts'
import { CHANNEL_FORMS } from '#db/callouts'
import { post } from './http.ts'
import { idOf, type Sending, type Sent } from './sending.ts'

/** A text message through a gateway that takes a form or JSON over HTTP: one request a recipient. */
export async function sendText(sending: Sending): Promise<Sent> {
  const { settings, secret, recipients, parts } = sending
  const id = idOf(sending)
  const { url, format, toField, textField, idField, username } = CHANNEL_FORMS.text.parse(settings)
  const headers: Record<string, string> = {
    'content-type': format === 'json' ? 'application/json' : 'application/x-www-form-urlencoded',
    'idempotency-key': `"${id}"`,
    ...(secret === null
      ? {}
      : {
          authorization:
            username === ''
              ? `Bearer ${secret}`
              : `Basic ${Buffer.from(`${username}:${secret}`).toString('base64')}`,
        }),
  }
  const text = letterOf(parts.map(({ facts }) => facts)).short
  const answers: string[] = []
  for (const to of recipients) {
    const fields = { [toField]: to, [textField]: text, ...(idField === '' ? {} : { [idField]: id }) }
    const body = format === 'json' ? JSON.stringify(fields) : new URLSearchParams(fields).toString()
    answers.push(await post(url, body, headers))
  }
  return { words: [...new Set(answers)].join('; '), refused: [] }
}
