<script lang="ts">
  import type { HourOfWeek, QuietWindow } from '#core/past'
  import { colourOf } from '../readings/timeChartOption'

  /** The hours of the week, each as dark as all together are busy in it; a mark in the corner where weeks differ. */
  let {
    hours,
    windows,
    lengthHours,
    every,
  }: {
    hours: readonly (HourOfWeek | null)[]
    windows: readonly QuietWindow[]
    lengthHours: number
    /** How often the windows come. */
    every: 'day' | 'week'
  } = $props()
  const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
  const CELL = 34
  const ROW = 24
  const LEFT = 38
  const WIDE = 0.25
  /** The hours of each window, with its place in the list. */
  const marked = $derived(
    new Map(
      windows.flatMap(({ hour }, place) =>
        (every === 'day' ? DAYS : ['']).flatMap((_, day) =>
          Array.from(
            { length: lengthHours },
            (__, step) => [(day * 24 + hour + step) % 168, place + 1] as const,
          ),
        ),
      ),
    ),
  )
  const percent = (share: number): string => `${Math.round(share * 100)} %`
  const told = (hour: HourOfWeek | null, index: number): string =>
    `${DAYS[Math.floor(index / 24)]!} ${String(index % 24).padStart(2, '0')}:00: ${
      hour === null
        ? 'not heard'
        : `${percent(hour.median)} of the peak, from ${percent(hour.low)} to ${percent(hour.high)} over ${hour.weeks} ${hour.weeks === 1 ? 'week' : 'weeks'}`
    }`
  const top = $derived(Math.max(0.01, ...hours.map((hour) => hour?.median ?? 0)))
</script>

<svg
  viewBox="0 0 {LEFT + 24 * CELL} {7 * ROW + 20}"
  class="w-full"
  role="img"
  aria-label="How busy all are together, by the hour of the week"
  data-testid="week"
>
  {#each hours as hour, index (index)}
    {@const x = LEFT + (index % 24) * CELL}
    {@const y = Math.floor(index / 24) * ROW}
    <g>
      <title>{told(hour, index)}</title>
      {#if hour === null}
        <rect
          {x}
          {y}
          width={CELL - 1}
          height={ROW - 1}
          class="stroke-rule fill-none"
          stroke-dasharray="2 2"
        />
      {:else}
        <rect
          {x}
          {y}
          width={CELL - 1}
          height={ROW - 1}
          fill={colourOf(0)}
          fill-opacity={0.04 + 0.9 * Math.min(1, hour.median / top)}
        />
        {#if hour.high - hour.low > WIDE}
          <path d="M{x + CELL - 1} {y}v7h-7z" class="fill-ink" />
        {/if}
      {/if}
      {#if marked.has(index)}
        <rect
          x={x + 1}
          y={y + 1}
          width={CELL - 3}
          height={ROW - 3}
          class="stroke-ink fill-none"
          stroke-width="1.6"
        />
        <text x={x + CELL / 2} y={y + 15} text-anchor="middle" class="fill-ink text-[11px] font-[640]"
          >{marked.get(index)}</text
        >
      {/if}
    </g>
  {/each}
  {#each DAYS as day, index (day)}
    <text x="0" y={index * ROW + 16} class="fill-ink-2 text-[11px]">{day}</text>
  {/each}
  {#each [0, 3, 6, 9, 12, 15, 18, 21] as hour (hour)}
    <text x={LEFT + hour * CELL} y={7 * ROW + 14} class="fill-ink-3 text-[10px]"
      >{String(hour).padStart(2, '0')}:00</text
    >
  {/each}
</svg>
