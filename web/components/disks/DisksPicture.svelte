<script lang="ts">
  import { shareOfAxis } from '#core/forecast'
  import { formatDate } from '#core/units'

  /**
   * Every drive by how much of its life is left, against the date on which it is worn out or against its age. What needs
   * somebody stands out by its shape; the rest is a ring.
   */
  let {
    points,
    by,
    nowMs,
    timeZone,
  }: {
    points: readonly {
      readonly partId: number
      readonly name: string
      readonly lifeLeft: number | null
      readonly wornMs: number | null
      readonly powerOnHours: number | null
      readonly severity: 'critical' | 'warning' | null
    }[]
    by: 'date' | 'age'
    nowMs: number
    timeZone: string
  } = $props()

  const DAY_MS = 86_400_000
  const HORIZON_DAYS = 730
  const YEAR_HOURS = 8766
  /** Where the axis ends and “later” begins, percent. */
  const LATER = 88
  const DATES = [30, 90, 180, 365, 730]
  const oldest = $derived(Math.max(1, ...points.map(({ powerOnHours }) => (powerOnHours ?? 0) / YEAR_HOURS)))
  const years = $derived(Math.ceil(oldest))
  const marks = $derived(
    by === 'date'
      ? DATES.map((days) => ({
          x: LATER * shareOfAxis(days, HORIZON_DAYS),
          words: days < 365 ? `${days} d` : `${days / 365} y`,
        }))
      : Array.from({ length: years }, (_, index) => ({
          x: (LATER * (index + 1)) / years,
          words: `${index + 1} y`,
        })),
  )
  /** Two drives in one place are drawn beside each other: the last digits of their number tell where. */
  const jitter = (partId: number): number => ((partId * 7919) % 100) / 100

  function across({ partId, wornMs, powerOnHours }: (typeof points)[number]): number | null {
    if (by === 'age') return powerOnHours === null ? null : (LATER * powerOnHours) / YEAR_HOURS / years
    return wornMs === null
      ? LATER + 3 + 8 * jitter(partId)
      : LATER * shareOfAxis((wornMs - nowMs) / DAY_MS, HORIZON_DAYS)
  }
  const placed = $derived(
    points.flatMap((point) => {
      const x = across(point)
      return x === null || point.lifeLeft === null ? [] : [{ ...point, x, y: 6 + 88 * (1 - point.lifeLeft) }]
    }),
  )
  const left = $derived(points.length - placed.length)
  /** Of two that stand close, the second has its name on its other side. */
  const inTrouble = $derived(
    placed
      .filter(({ severity }) => severity !== null)
      .sort((a, b) => a.x - b.x)
      .map((point, index, all) => {
        const before = all[index - 1]
        const isClose = before !== undefined && point.x - before.x < 16 && Math.abs(point.y - before.y) < 8
        return {
          ...point,
          isLeft:
            point.x > 78 ||
            (!isClose &&
              all[index + 1] !== undefined &&
              all[index + 1]!.x - point.x < 16 &&
              Math.abs(all[index + 1]!.y - point.y) < 8),
        }
      }),
  )
  const well = $derived(placed.filter(({ severity }) => severity === null))
  const percent = (ratio: number | null): string => `${Math.round((ratio ?? 0) * 100)} %`
  const spoken = (point: (typeof points)[number]): string =>
    `${point.name}, ${percent(point.lifeLeft)} left${point.wornMs === null ? '' : `, worn out ${formatDate(point.wornMs, timeZone)}`}`
</script>

<div class="grid grid-cols-[34px_minmax(0,1fr)] gap-x-2">
  <svg class="h-52 w-full overflow-visible" aria-hidden="true">
    {#each [100, 75, 50, 25, 0] as level (level)}
      <text
        x="100%"
        y="{6 + 88 * (1 - level / 100)}%"
        dy="4"
        text-anchor="end"
        class="fill-ink-3 text-[11px] tabular-nums">{level} %</text
      >
    {/each}
  </svg>
  <svg
    class="border-rule h-52 w-full overflow-visible border-b border-l"
    role="group"
    aria-label="Life left of {placed.length} drives"
  >
    {#each [75, 50, 25] as level (level)}
      <line
        x1="0"
        x2="100%"
        y1="{6 + 88 * (1 - level / 100)}%"
        y2="{6 + 88 * (1 - level / 100)}%"
        class="stroke-rule-2"
      />
    {/each}
    {#each marks as { x, words } (words)}
      <line x1="{x}%" x2="{x}%" y1="0" y2="100%" class="stroke-rule-2" />
    {/each}
    {#if by === 'date'}
      <rect x="{LATER}%" y="0" width="{100 - LATER}%" height="100%" class="fill-rule-2 opacity-40" />
    {/if}
    {#each well as point (point.partId)}
      <a href="/disks/{point.partId}" aria-label={spoken(point)} tabindex="-1">
        <circle cx="{point.x}%" cy="{point.y}%" r="3" class="fill-sheet stroke-ink-3 hover:stroke-ink"
          ><title>{spoken(point)}</title></circle
        >
      </a>
    {/each}
    {#each inTrouble as point (point.partId)}
      <a href="/disks/{point.partId}" aria-label={spoken(point)} data-testid="drive-point">
        <title>{spoken(point)}</title>
        <svg x="{point.x}%" y="{point.y}%" class="overflow-visible">
          {#if point.severity === 'critical'}
            <path d="M-4 -7v14" class="stroke-crit" stroke-width="2" />
            <path d="M-3 -6.5h9.5L3.5 -3l3 3.5H-3z" class="fill-crit" />
          {:else}
            <path d="M0 -6l6 6-6 6-6-6z" class="fill-sheet stroke-warn" stroke-width="1.6" />
            <path d="M0 -6l6 6-6 6z" class="fill-warn" />
          {/if}
          {#if point.x < LATER}
            <text
              x={point.isLeft ? -10 : 10}
              y="4"
              text-anchor={point.isLeft ? 'end' : 'start'}
              class="fill-ink text-[11px]">{point.name}</text
            >
          {/if}
        </svg>
      </a>
    {/each}
  </svg>
  <span></span>
  <svg class="h-5 w-full overflow-visible" aria-hidden="true">
    <text x="0" y="14" class="fill-ink-3 text-[11px]">{by === 'date' ? 'today' : 'new'}</text>
    {#each marks as { x, words } (words)}
      <text x="{x}%" y="14" text-anchor="middle" class="fill-ink-3 text-[11px]">{words}</text>
    {/each}
    {#if by === 'date'}<text x="100%" y="14" text-anchor="end" class="fill-ink-3 text-[11px]">later</text
      >{/if}
  </svg>
</div>
{#if left > 0}
  <p class="text-ink-2 mt-1 text-xs">
    {left}
    {left === 1 ? 'drive is' : 'drives are'} not drawn: {by === 'age'
      ? 'it is not told for how long they have been powered on, or how much life is left.'
      : 'how much of their life is left is not known.'}
  </p>
{/if}
