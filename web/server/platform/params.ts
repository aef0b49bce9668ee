import { error } from '@sveltejs/kit'

/** A row's id in the query of an address; what is none is as if it were not there. */
export function idIn(params: URLSearchParams, name: string): number | null {
  const text = params.get(name) ?? ''
  return /^[1-9]\d{0,8}$/.test(text) ? Number(text) : null
}

/** A row's id from an address; what is none is not found. */
export function idOf(text: string): number {
  if (!/^\d{1,9}$/.test(text)) error(404, `“${text}” is not a number of anything here.`)
  return Number(text)
}
