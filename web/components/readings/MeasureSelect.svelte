<script lang="ts">
  import Combobox from '../ui/Combobox.svelte'
  import { MEASURE_GROUPS, measureKeys, type MeasureKey, measureOf } from '#core/catalogue'
  import { UNITS } from '#core/units'

  /** One of all measures, with the unit that a value has to be in. */
  let {
    value = $bindable(),
    label,
    hasUnits = true,
  }: { value: MeasureKey; label: string; hasUnits?: boolean } = $props()

  const keys = measureKeys()
  const unitOf = (key: MeasureKey): string => {
    const { unit, states } = measureOf(key)
    if (states !== undefined)
      return `, ${Object.entries(states)
        .map(([number, word]) => `${number} ${word}`)
        .join(' · ')}`
    return unit === 'ratio' ? ', 0 to 1' : UNITS[unit].symbol === '' ? '' : `, ${UNITS[unit].symbol}`
  }
</script>

<Combobox
  class="w-full"
  {label}
  bind:value
  options={MEASURE_GROUPS.flatMap((group) => [
    ...keys
      .filter((key) => measureOf(key).group === group)
      .map((key) => ({
        value: key,
        label: `${measureOf(key).label}${hasUnits ? unitOf(key) : ''}`,
        group: group,
      })),
  ])}
/>
