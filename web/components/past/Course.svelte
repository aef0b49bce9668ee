<script lang="ts">
  /** A course in a table: so many means, side by side, between two ends that all rows have in common. */
  let {
    values,
    low,
    high,
    line,
    label,
  }: {
    values: readonly (number | null)[]
    low: number
    high: number
    /** Drawn across, when it lies between the ends. */
    line: number | null
    label: string
  } = $props()
  const WIDTH = 130
  const HEIGHT = 20
  const y = $derived((value: number) => HEIGHT - 2 - ((value - low) / (high - low || 1)) * (HEIGHT - 4))
  const path = $derived(
    values
      .map((value, index) => {
        if (value === null) return ''
        const move = index === 0 || values[index - 1] === null ? 'M' : 'L'
        return `${move}${((index / Math.max(1, values.length - 1)) * WIDTH).toFixed(1)} ${y(value).toFixed(1)}`
      })
      .join(''),
  )
</script>

<svg width={WIDTH} height={HEIGHT} role="img" aria-label={label}>
  {#if line !== null && line >= low && line <= high}
    <path d="M0 {y(line)}H{WIDTH}" class="stroke-warn" stroke-dasharray="3 3" />
  {/if}
  <path d={path} fill="none" class="stroke-ink" stroke-width="1.2" />
</svg>
