import { getContext, setContext } from 'svelte'

/** What is wrong with the fields of a form, by their names; `null` where nothing is. */
export interface Problems {
  readonly of: (name: string) => string | null
}
const KEY = Symbol('problems of a form')

export const provideProblems = (problems: Problems): void => void setContext(KEY, problems)
export const useProblems = (): Problems | undefined => getContext<Problems | undefined>(KEY)
