<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import type { RuleFields } from '#core/rules'
  import { formatMoment, formatNumber } from '#core/units'
  import { type Asked, askTyped } from '$lib/client/typed'

  /** A pattern tried on what devices have said already. */
  let { fields, timeZone }: { fields: RuleFields; timeZone: string } = $props()

  interface Trial {
    readonly days: number
    readonly lines: number
    readonly gear: number
    readonly alerts: number
    readonly isCutOff: boolean
    readonly examples: readonly { readonly gear: string; readonly atMs: number; readonly body: string }[]
  }
  let tried = $state.raw<Asked<Trial> | null>(null)
  const asked = $derived(
    new URLSearchParams(
      ['pattern', 'atMost', 'count', 'window'].map((name) => [name, fields[name] ?? '']),
    ).toString(),
  )
  $effect(() =>
    askTyped<Trial>(
      `/alerts/rules/lines?${asked}`,
      {},
      'It could not be tried.',
      (answer) => (tried = answer),
    ),
  )
  const trial = $derived(tried?.answer ?? null)
  const problem = $derived(tried?.problem ?? null)
  const plural = (count: number, one: string): string =>
    `${formatNumber(count, 0)} ${one}${count === 1 ? '' : 's'}`
</script>

<Panel title="Test on stored lines" note="as it is typed">
  {#if problem !== null}
    <p class="text-ink-3">{problem}</p>
  {:else if trial !== null}
    <p class="text-[15px] font-[560]" role="status" data-testid="tried">
      {trial.lines === 0
        ? `No line of the last ${trial.days} days is like that.`
        : `${plural(trial.lines, 'line')} of ${formatNumber(trial.gear, 0)} gear within ${trial.days} days, which would have been ${plural(trial.alerts, 'alert')}.`}
      {trial.isCutOff ? 'There are more than were looked at.' : ''}
    </p>
    <ul class="mt-1">
      {#each trial.examples as { gear, atMs, body }, index (index)}
        <li class="border-rule-2 border-t py-0.5">
          <span class="text-ink-2 text-xs">{formatMoment(atMs, atMs, timeZone)} {gear}</span>
          {body}
        </li>
      {/each}
    </ul>
  {/if}
</Panel>
