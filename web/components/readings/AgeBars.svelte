<script lang="ts">
  import { formatBytes, formatDate } from '#core/units'

  let {
    ages,
    timeZone,
  }: { ages: readonly { fromMs: number; bytes: number; readings: number }[]; timeZone: string } = $props()

  const ROW = 22
  const WIDTH = 330
  const most = $derived(Math.max(1, ...ages.map((age) => age.bytes)))
</script>

<!-- Thirty days a bar, the newest on top. -->
<svg
  viewBox="0 0 {WIDTH} {ages.length * ROW}"
  class="block w-full"
  role="img"
  aria-label="Bytes of each thirty days"
>
  {#each ages as age, index (age.fromMs)}
    {@const y = index * ROW}
    <text x="0" y={y + 15} class="name">from {formatDate(age.fromMs, timeZone)}</text>
    <rect x="110" y={y + 5} width={Math.max(1, (age.bytes / most) * 130)} height="12" class="bar" />
    <text x={WIDTH} y={y + 15} text-anchor="end" class="value">{formatBytes(age.bytes)}</text>
  {/each}
</svg>

<style>
  .name {
    font-size: 12px;
    fill: var(--ink-2);
  }
  .value {
    font-size: 12px;
    fill: var(--ink);
  }
  .bar {
    fill: var(--unit);
    stroke: var(--unit-edge);
  }
</style>
