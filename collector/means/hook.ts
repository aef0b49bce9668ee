import { documentOf, type Facts } from '#core/callouts'
import { MEANS_FORMS } from '#db/callouts'
import { post } from './http.ts'
import type { Sending } from './sending.ts'
import { signedHeaders } from '#protocols/hook'

/** A web hook: a JSON document by `POST`, signed when a secret was given. */
export async function callHook({ id, alertId, settings, secret }: Sending, facts: Facts): Promise<string> {
  const { url } = MEANS_FORMS.hook.parse(settings)
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
