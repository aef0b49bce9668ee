<script lang="ts">
  import { shareOfAxis } from '#core/forecast'
  import { formatDate } from '#core/units'
  import type { AheadRow } from '$lib/server/forecast/ahead'

  /** One thing on the axis of dates: the way to its run-out, the band, and by when to order. */
  let {
    row,
    nowMs,
    horizonDays,
    timeZone,
  }: { row: AheadRow; nowMs: number; horizonDays: number; timeZone: string } = $props()
  const DAY_MS = 86_400_000
  const at = (ms: number): number => 100 * shareOfAxis((ms - nowMs) / DAY_MS, horizonDays)
  const run = $derived(row.runOutMs ?? Infinity)
  const early = $derived(at(row.earlyMs ?? run))
  const late = $derived(row.lateMs === null ? 100 : at(row.lateMs))
  const middle = $derived(at(run))
  const isDue = $derived(row.order === null && row.orderByMs !== null && row.orderByMs < nowMs + 7 * DAY_MS)
  const order = $derived(row.orderByMs === null ? null : at(Math.max(nowMs, row.orderByMs)))
  const days = $derived(Math.max(0, Math.round((run - nowMs) / DAY_MS)))
  const tone = $derived(row.order !== null ? 'ink-3' : isDue ? 'warn' : 'ink')
  const STROKES = { 'ink-3': 'stroke-ink-3', warn: 'stroke-warn', ink: 'stroke-ink' } as const
  const FILLS = { 'ink-3': 'fill-rule-2', warn: 'fill-warn-soft', ink: 'fill-rule-2' } as const
  const WORDS = { 'ink-3': 'fill-ink-3', warn: 'fill-warn', ink: 'fill-ink' } as const
  const spoken = $derived(
    row.runOutMs === null
      ? 'not in sight'
      : `${row.line} in ${days} days, ${formatDate(run, timeZone)}${row.orderByMs === null ? '' : `; order by ${formatDate(row.orderByMs, timeZone)}`}`,
  )
</script>

<svg class="h-[52px] w-full overflow-visible" role="img" aria-label={spoken}>
  <line x1="0" x2="0" y1="0" y2="100%" class="stroke-ink" />
  {#if row.runOutMs !== null && middle < 100}
    <line
      x1="0"
      x2="{early}%"
      y1="26"
      y2="26"
      class={STROKES[tone]}
      stroke-dasharray={row.order === null ? undefined : '3 3'}
    />
    <rect
      x="{early}%"
      y="20"
      width="{Math.max(0.6, late - early)}%"
      height="12"
      class={[STROKES[tone], FILLS[tone]]}
      stroke-dasharray={row.order === null ? undefined : '3 3'}
    />
    <line x1="{middle}%" x2="{middle}%" y1="17" y2="35" stroke-width="2.5" class={STROKES[tone]} />
    <text
      x="{late < 92 ? Math.max(late, early + 0.6) : early}%"
      dx={late < 92 ? 6 : -6}
      y={late < 92 ? 30 : 22}
      text-anchor={late < 92 ? 'start' : 'end'}
      class="{WORDS[tone]} text-[11px] font-bold">{row.verdict === 'over' ? 'now' : `${days} d`}</text
    >
    <text
      x="{Math.min(96, Math.max(2, middle))}%"
      y="46"
      text-anchor={middle > 90 ? 'end' : middle < 8 ? 'start' : 'middle'}
      class="fill-ink-3 text-[10px]">{row.line}</text
    >
    {#if order !== null && row.order === null}
      <svg x="{order}%" y="26" class="overflow-visible" aria-hidden="true"
        ><path d="M-6 0 L2 -5 V5 Z" class="fill-accent" /></svg
      >
      <text
        x="{order}%"
        y="12"
        text-anchor={order < 12 ? 'start' : order > 88 ? 'end' : 'middle'}
        class="fill-accent text-[10px] font-semibold"
        >{row.orderByMs! <= nowMs
          ? 'order now'
          : `order by ${formatDate(row.orderByMs!, timeZone).replace(/ \d{4}$/, '')}`}</text
      >
    {/if}
  {/if}
</svg>
