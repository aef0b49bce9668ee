<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import { formatElapsed, formatMoment, formatNumber } from '#core/units'

  /** How many lines were said over the window, and how many of them were errors. */
  let {
    rate,
    window,
    nowMs,
    timeZone,
    zoomed,
  }: {
    rate: readonly { readonly fromMs: number; readonly lines: number; readonly grave: number }[]
    window: { readonly fromMs: number; readonly toMs: number }
    nowMs: number
    timeZone: string
    /** Where a bar leads: to its time alone. */
    zoomed: (fromMs: number, toMs: number) => string
  } = $props()
  const peak = $derived(Math.max(1, ...rate.map(({ lines }) => lines)))
  const step = $derived((rate[1]?.fromMs ?? 0) - (rate[0]?.fromMs ?? 0))
  const most = $derived(`${formatNumber(peak, 0)} line${peak === 1 ? '' : 's'}`)
  const around = (fromMs: number): string =>
    zoomed(Math.floor(fromMs - step), Math.ceil(fromMs - step + Math.max(step * 3, 60_000)))
</script>

<Panel title="Lines over time" note="up to {most} in {formatElapsed(step)}; press a bar to see only its time">
  <svg
    viewBox="0 0 900 70"
    class="h-[70px] w-full"
    preserveAspectRatio="none"
    role="group"
    aria-label="Lines over time"
  >
    {#each rate as bar, index (bar.fromMs)}
      {#if bar.lines > 0}
        <a
          href={around(bar.fromMs)}
          aria-label="{bar.lines} lines at {formatMoment(bar.fromMs, nowMs, timeZone)}"
        >
          <rect x={index * 10} y="0" width="10" height="70" fill="transparent" />
          <rect
            x={index * 10 + 1}
            y={68 - (bar.lines / peak) * 64}
            width="8"
            height={Math.max(1, (bar.lines / peak) * 64)}
            class="fill-unit stroke-ink-3"
            stroke-width="0.6"
          />
          {#if bar.grave > 0}
            <rect
              x={index * 10 + 1}
              y={68 - Math.max(2, (bar.grave / peak) * 64)}
              width="8"
              height={Math.max(2, (bar.grave / peak) * 64)}
              class="fill-crit"
            />
          {/if}
        </a>
      {/if}
    {/each}
    <path d="M0 69H900" class="stroke-rule" />
  </svg>
  <p class="text-ink-2 flex justify-between text-xs">
    <span>{formatMoment(window.fromMs, nowMs, timeZone)}</span>
    <span>{formatMoment(window.toMs, nowMs, timeZone)}</span>
  </p>
</Panel>
