import { type Facts, shortOf } from '#core/callouts'
import { MEANS_FORMS } from '#db/callouts'
import { post } from './http.ts'
import type { Sending } from './sending.ts'

/** A text message through a gateway that takes a form or JSON over HTTP: one request a recipient. */
export async function sendText({ id, settings, secret, recipients }: Sending, facts: Facts): Promise<string> {
  const { url, format, toField, textField, idField, username } = MEANS_FORMS.text.parse(settings)
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
  const text = shortOf(facts)
  const answers: string[] = []
  for (const to of recipients) {
    const fields = { [toField]: to, [textField]: text, ...(idField === '' ? {} : { [idField]: id }) }
    const body = format === 'json' ? JSON.stringify(fields) : new URLSearchParams(fields).toString()
    answers.push(await post(url, body, headers))
  }
  return [...new Set(answers)].join('; ')
}
