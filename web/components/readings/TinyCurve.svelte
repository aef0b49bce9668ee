<script lang="ts">
  import type { TinyCurve } from '#core/alerts'

  let { curve, fromMs, toMs, label }: { curve: TinyCurve; fromMs: number; toMs: number; label: string } =
    $props()

  const WIDTH = 156
  const HEIGHT = 32
  const all = $derived([
    ...curve.points.map(([, value]) => value),
    ...(curve.line === null ? [] : [curve.line]),
  ])
  const low = $derived(Math.min(...all))
  const high = $derived(Math.max(...all))
  const x = $derived((atMs: number) => ((atMs - fromMs) / (toMs - fromMs || 1)) * (WIDTH - 6) + 1)
  const y = $derived((value: number) => HEIGHT - 4 - ((value - low) / (high - low || 1)) * (HEIGHT - 8))
  const path = $derived(
    curve.points
      .map(([atMs, value], index) => `${index === 0 ? 'M' : 'L'}${x(atMs).toFixed(1)} ${y(value).toFixed(1)}`)
      .join(''),
  )
  const last = $derived(curve.points.at(-1))
</script>

<svg width={WIDTH} height={HEIGHT} role="img" aria-label={label}>
  {#if curve.line !== null}
    <path d="M0 {y(curve.line)}H{WIDTH}" class="stroke-crit" stroke-dasharray="3 3" />
  {/if}
  <path d={path} fill="none" class="stroke-ink" stroke-width="1.4" />
  {#if last !== undefined}<circle cx={x(last[0])} cy={y(last[1])} r="2.4" class="fill-ink" />{/if}
</svg>
