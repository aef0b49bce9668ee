import { error } from '@sveltejs/kit'

/** A row's id from an address; what is none is not found. */
export function idOf(text: string): number {
  if (!/^\d{1,9}$/.test(text)) error(404, `«${text}» is not a number of anything here.`)
  return Number(text)
}
