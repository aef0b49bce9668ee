<script lang="ts">
  import type { KeptForecast } from '#core/forecast'
  import Chart from '../readings/Chart.svelte'
  import { aheadOption } from './aheadOption'

  /** One forecast drawn over its history. */
  let {
    past,
    body,
    nowMs,
    madeMs,
    runOutMs,
    timeZone,
    spoken,
  }: {
    past: readonly (readonly [number, number])[]
    body: KeptForecast
    nowMs: number
    madeMs: number
    runOutMs: number | null
    timeZone: string
    spoken: string
  } = $props()
</script>

<Chart
  option={() => aheadOption({ past, body, nowMs, madeMs, runOutMs, timeZone })}
  {spoken}
  class="h-[340px]"
  testid="ahead-chart"
/>
