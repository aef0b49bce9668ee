import type { ActionResult, SubmitFunction } from '@sveltejs/kit'
import { enhance as sendByScript } from '$app/forms'
import { failedRequest } from './failedRequest.svelte'

const KNOWN: readonly ActionResult['type'][] = ['success', 'failure', 'redirect']

/** What an answer says that is none of a form's own: it was not carried out. `null` when it was, or was refused in words. */
function failureOf(result: ActionResult | { readonly message?: string }): string | null {
  if (!('type' in result)) return result.message ?? 'The answer could not be read.'
  if (result.type !== 'error') return KNOWN.includes(result.type) ? null : 'The answer could not be read.'
  const error: unknown = result.error
  // The browser's own words for a server that does not answer say nothing to anybody.
  return error instanceof Error
    ? 'The application does not answer.'
    : ((error as { readonly message?: string } | null)?.message ?? 'Something went wrong here.')
}

/**
 * Sends a form by the page's own script, as `enhance` of SvelteKit does. When it could not be carried out at all, because
 * the database is away, say, the page stays as it is with everything that was entered, and it is said so.
 */
export function enhance(form: HTMLFormElement, submit?: SubmitFunction): { destroy(): void } {
  return sendByScript(form, async (given) => {
    const after = await submit?.(given)
    return async (outcome) => {
      const failure = failureOf(outcome.result)
      if (failure === null) failedRequest.forget()
      else failedRequest.say(`${failure} What you entered is still here.`)
      const kept = failure === null ? outcome : { ...outcome, update: () => Promise.resolve() }
      await (after ? after(kept) : kept.update())
    }
  })
}
