<script lang="ts">
  import { MEASURE_GROUPS, MEASURES, type MeasureKey, measureOf } from '#core/catalogue'
  import { UNITS } from '#core/units'

  /** One of all measures, with the unit that a value has to be in. */
  let { value = $bindable(), label }: { value: MeasureKey; label: string } = $props()

  const keys = Object.keys(MEASURES) as MeasureKey[]
  const unitOf = (key: MeasureKey): string => {
    const { unit, states } = measureOf(key)
    if (states !== undefined)
      return `, ${Object.entries(states)
        .map(([number, word]) => `${number} ${word}`)
        .join(' · ')}`
    return unit === 'ratio' ? ', 0 to 1' : UNITS[unit].symbol === '' ? '' : `, ${UNITS[unit].symbol}`
  }
</script>

<select class="field w-full" aria-label={label} bind:value>
  {#each MEASURE_GROUPS as group (group)}
    <optgroup label={group}>
      {#each keys.filter((key) => measureOf(key).group === group) as key (key)}
        <option value={key}>{measureOf(key).label}{unitOf(key)}</option>
      {/each}
    </optgroup>
  {/each}
</select>
