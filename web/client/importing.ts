export interface Imported {
  readonly taken: number
  readonly unknown: readonly { readonly name: string; readonly readings: number }[]
  readonly bad: readonly { readonly line: number; readonly why: string }[]
  readonly badLines: number
}

export type ImportOutcome =
  | { readonly kind: 'done'; readonly imported: Imported }
  | { readonly kind: 'refused'; readonly message: string }

function outcomeOf({ status, responseText }: XMLHttpRequest): ImportOutcome {
  const body = parse(responseText) as (Imported & { message?: string }) | null
  return status === 200 && body !== null
    ? { kind: 'done', imported: body }
    : { kind: 'refused', message: body?.message ?? `The server answered ${status}.` }
}

/** Sends a file of readings, telling how far it is. What was taken in before a cancel stays. */
export function sendReadings(
  file: File,
  onSent: (bytes: number) => void,
): { done: Promise<ImportOutcome>; cancel: () => void } {
  const request = new XMLHttpRequest()
  const done = new Promise<ImportOutcome>((resolve) => {
    request.upload.addEventListener('progress', (event) => onSent(event.loaded))
    request.addEventListener('load', () => {
      resolve(outcomeOf(request))
    })
    request.addEventListener('error', () =>
      resolve({ kind: 'refused', message: 'The server cannot be reached, or it broke off.' }),
    )
    request.addEventListener('abort', () =>
      resolve({
        kind: 'refused',
        message: 'Cancelled. What was taken in before is kept; sending it again makes no doubles.',
      }),
    )
  })
  request.open('POST', '/readings')
  request.setRequestHeader('content-type', 'text/plain')
  request.send(file)
  return { done, cancel: () => request.abort() }
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
