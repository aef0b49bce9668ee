/** Looks of the calendar, the same for one date and for two. */
export const CALENDAR = {
  head: 'mb-1 flex items-center justify-between',
  turn: 'hover:bg-accent-soft px-2 py-0.5',
  heading: 'font-[620]',
  headCell: 'text-ink-3 w-8 text-center text-[11px] font-[450]',
  day: 'hover:bg-accent-soft data-selected:bg-ink-2 data-selected:text-sheet data-today:font-[680] data-outside-month:text-ink-3 data-disabled:text-ink-3 block w-8 cursor-pointer py-1 text-center text-xs',
} as const
