<script lang="ts">
  import { measureOf } from '#core/catalogue'
  import { amountIn, type DrivenBy, type Drivers, rateWords } from '#core/forecast'
  import { formatNumber } from '#core/units'
  import Link from '../ui/Link.svelte'
  import Panel from '../ui/Panel.svelte'
  import Table from '../ui/Table.svelte'

  /** Who uses a thing up: the strongest first, the rest together. */
  let {
    drivers,
    day,
  }: {
    drivers: Drivers & { by: DrivenBy; sentence: string; notRead: number }
    day: (ms: number) => string
  } = $props()

  const { by } = $derived(drivers)
  const unit = $derived(measureOf(by.measure).unit)
  const isFlow = $derived(by.as === 'flow')
  const isByDay = $derived(isFlow || unit === 'byte')
  /** A flow is said as what has come together in a day. */
  const amount = $derived(
    isFlow
      ? (value: number) => amountIn('byte')(value * 86_400)
      : by.isOfProcessors === true
        ? (value: number) => `${formatNumber(value, 1)} ${value === 1 ? 'processor' : 'processors'}`
        : amountIn(unit),
  )
  const rate = (perDay: number): string =>
    isFlow ? `${amount(perDay)} a day` : rateWords(perDay, drivers, isByDay, amount)
  const most = $derived(Math.max(...drivers.first.map(({ perDay }) => Math.abs(perDay)), Number.MIN_VALUE))
  const missing = $derived(drivers.whole === null ? 0 : drivers.whole - drivers.perDay)
  const isMissing = $derived(
    drivers.whole !== null &&
      Math.abs(missing) > 0.05 * Math.abs(drivers.whole) &&
      Math.abs(missing) > 0.05 * most,
  )
</script>

<Panel title="What drives it" note="{by.words}, since {day(drivers.fromMs)}" data-testid="drivers">
  <p class="mb-1">
    {drivers.sentence}
    {#each drivers.jumps as { atMs, id, name, size } (atMs)}
      <span class="block"
        >Of the {size > 0 ? 'rise' : 'fall'} on {day(atMs)}
        <Link href="/gear/{id}">{name}</Link> made {amount(Math.abs(size))}.</span
      >
    {/each}
  </p>
  {#if drivers.first.length > 0}
    <Table>
      <tbody>
        {#each drivers.first as { id, name, now, perDay, sinceMs } (id)}
          <tr>
            <td
              ><Link href="/gear/{id}">{name}</Link>
              <span class="text-ink-2 block text-xs"
                >{isFlow ? '' : `${amount(now)} now`}{sinceMs === null
                  ? ''
                  : `, heard since ${day(sinceMs)}`}</span
              ></td
            >
            <td class="w-24"
              ><svg class="bg-rule-2 h-2 w-full" aria-hidden="true"
                ><rect
                  height="100%"
                  width="{(100 * Math.abs(perDay)) / most}%"
                  class={perDay > 0 ? 'fill-accent' : 'fill-ink-3'}
                /></svg
              ></td
            >
            <td class="text-right whitespace-nowrap">{rate(perDay)}</td>
          </tr>
        {/each}
        {#if drivers.others.count > 0}
          <tr
            ><td colspan="2" class="text-ink-2"
              >{drivers.others.count} {drivers.others.count === 1 ? 'other' : 'others'}</td
            ><td class="text-ink-2 text-right whitespace-nowrap">{rate(drivers.others.perDay)}</td></tr
          >
        {/if}
        {#if isMissing}
          <tr
            ><td colspan="2" class="text-ink-2">Told by none of them</td><td
              class="text-ink-2 text-right whitespace-nowrap">{rate(missing)}</td
            ></tr
          >
        {/if}
      </tbody>
    </Table>
  {/if}
  {#if drivers.tooShort > 0}<p class="text-ink-2 mt-1 text-xs">
      Of {drivers.tooShort} fewer than three days are known.
    </p>{/if}
  {#if drivers.notRead > 0}<p class="text-ink-2 mt-1 text-xs">
      {drivers.notRead}
      {drivers.notRead === 1 ? 'is' : 'are'} left out: {by.isOfProcessors === true
        ? 'nobody says how many processors they have'
        : 'so many are not read at once'}.
    </p>{/if}
</Panel>
