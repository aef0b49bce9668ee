<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import { spanWords } from '#core/units'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import DeviceTexts from './DeviceTexts.svelte'

  /** What a gear said by itself within the window. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['texts']>> = $props()
</script>

<Panel
  title="Log lines"
  note={`syslog and SNMP notifications, ${spanWords(view.window, frame.nowMs, frame.timeZone)}`}
  id="says"
>
  <DeviceTexts texts={view.texts} nowMs={frame.nowMs} timeZone={frame.timeZone} />
</Panel>
