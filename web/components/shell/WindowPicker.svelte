<script lang="ts">
  import { WINDOWS, type WindowKey } from '#core/readings'
  import RangePicker from '../ui/RangePicker.svelte'

  let {
    key,
    ownLabel,
    fromMs,
    toMs,
    timeZone,
    choose,
    chooseOwn,
  }: {
    key: WindowKey | 'own'
    ownLabel: string
    fromMs: number
    toMs: number
    timeZone: string
    choose: (key: WindowKey) => void
    chooseOwn: (fromMs: number, toMs: number) => void
  } = $props()

  const presets = Object.entries(WINDOWS).map(([value, { label }]) => ({ value, label }))
</script>

<RangePicker
  {presets}
  preset={key === 'own' ? null : key}
  {fromMs}
  {toMs}
  {timeZone}
  label={key === 'own' ? ownLabel : WINDOWS[key].label}
  choosePreset={(value) => choose(value as WindowKey)}
  chooseRange={chooseOwn}
  aria-label="Time range"
/>
