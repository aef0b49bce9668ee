<script lang="ts">
  import { spanWords } from '#core/units'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import DeviceTexts from './DeviceTexts.svelte'

  /** What a gear said by itself within the window. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['texts']>> = $props()
</script>

<section class="panel" aria-labelledby="says">
  <h2 class="panel-title" id="says">
    What it says
    <span>syslog and SNMP notifications, {spanWords(view.window, frame.nowMs, frame.timeZone)}</span>
  </h2>
  <DeviceTexts texts={view.texts} nowMs={frame.nowMs} timeZone={frame.timeZone} />
</section>
