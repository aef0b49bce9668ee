/** What several parts of the kit share in look: square, quiet, ink on paper. */
export const FIELD =
  'border-rule bg-sheet text-ink placeholder:text-ink-3 aria-invalid:border-crit min-w-0 rounded-[3px] border px-[9px] py-[5px] disabled:opacity-55'
export const PANEL = 'border-rule border-t-ink bg-sheet min-w-0 border border-t-[3px] px-3.5 py-3'
export const MENU = 'bg-sheet border-ink z-40 max-w-[min(28rem,90vw)] border p-1'
export const ITEM =
  'data-highlighted:bg-accent-soft data-disabled:text-ink-3 flex w-full cursor-pointer items-center gap-2 px-3 py-1 text-left data-disabled:cursor-default'
export const HEADING = 'text-ink-3 px-3 pt-1.5 pb-0.5 text-[11px] font-[620]'
export const LINK = 'decoration-rule underline underline-offset-2 hover:decoration-current'
export const SMALL = 'text-ink-2 text-xs'
export const MONO = 'font-mono text-[11px]'
export const OVERLAY = 'fixed inset-0 z-30 bg-black/35'

/** One of those that a person can choose from, as it is given. */
export interface Choice {
  readonly value: string | number
  readonly label: string | number
  readonly group?: string | undefined
  readonly disabled?: boolean | undefined
}

export const optionsOf = (choices: readonly Choice[]): Option[] =>
  choices.map((each) => ({ ...each, value: String(each.value), label: String(each.label) }))

export interface Option {
  readonly value: string
  readonly label: string
  /** The heading below which it stands. */
  readonly group?: string | undefined
  readonly disabled?: boolean | undefined
}

/** Options in the order in which they came, those of one group below its heading. */
export function groupsOf(options: readonly Option[]): { heading: string | null; options: Option[] }[] {
  const groups: { heading: string | null; options: Option[] }[] = []
  for (const option of options) {
    const heading = option.group ?? null
    const last = groups.at(-1)
    if (last?.heading === heading) last.options.push(option)
    else groups.push({ heading, options: [option] })
  }
  return groups
}

/** Those whose label holds all words that were typed, those that begin with them first. */
export function matching(options: readonly Option[], typed: string): Option[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean)
  if (words.length === 0) return [...options]
  const found = options.filter(({ label, group }) => {
    const text = `${label} ${group ?? ''}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
  const starts = ({ label }: Option): number => (label.toLowerCase().startsWith(words[0]!) ? 0 : 1)
  return found.sort((a, b) => starts(a) - starts(b))
}
