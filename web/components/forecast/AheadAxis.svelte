<script lang="ts">
  import { shareOfAxis } from '#core/forecast'
  import { formatDate } from '#core/units'

  /** The dates over all rows, from today on. */
  let { nowMs, horizonDays, timeZone }: { nowMs: number; horizonDays: number; timeZone: string } = $props()
  const DAY_MS = 86_400_000
  const MARKS = $derived(
    horizonDays <= 190 ? [0, 7, 14, 30, 60, 90, 120, 150, 180] : [0, 30, 90, 180, 270, 365, 545, 730],
  )
  const wordsOf = (days: number): string =>
    days === 0
      ? 'today'
      : days <= 14
        ? `${days / 7} w`
        : formatDate(nowMs + days * DAY_MS, timeZone).replace(/ \d{4}$/, (year) =>
            horizonDays > 190 ? year : '',
          )
</script>

<svg class="h-5 w-full overflow-visible" aria-hidden="true">
  {#each MARKS as days (days)}
    <text
      x="{100 * shareOfAxis(days, horizonDays)}%"
      y="13"
      class="fill-ink-3 text-[10px]"
      text-anchor={days === 0 ? 'start' : days === horizonDays ? 'end' : 'middle'}>{wordsOf(days)}</text
    >
  {/each}
</svg>
