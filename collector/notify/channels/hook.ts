import { documentOf } from '#core/callouts'
import { CHANNEL_FORMS } from '#db/callouts'
import { post } from './http.ts'
import type { Sending } from './sending.ts'
import { signedHeaders } from '#protocols/hook'

/** A web hook: a JSON document by `POST`, signed when a secret was given. */
export async function callHook({ settings, secret, parts }: Sending): Promise<string> {
  const { id, alertId, facts } = parts[0]!
  const { url } = CHANNEL_FORMS.hook.parse(settings)
  const body = JSON.stringify(documentOf(id, alertId, facts))
  const createdS = Math.floor(Date.now() / 1000)
  return post(
    url,
    body,
    secret === null
      ? { 'content-type': 'application/json', 'idempotency-key': `"${id}"` }
      : signedHeaders(url, body, { id, createdS, secret }),
  )
}
