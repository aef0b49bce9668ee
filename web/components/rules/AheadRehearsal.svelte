<script lang="ts">
  import Link from '../ui/Link.svelte'
  import Panel from '../ui/Panel.svelte'
  import Table from '../ui/Table.svelte'
  import type { AheadRehearsal, RuleFields } from '#core/rules'
  import { formatDate, formatNumber } from '#core/units'
  import { type Asked, askTyped } from '$lib/client/typed'

  /** A rule on days left held against what is forecast, before it is saved. */
  let { fields, insteadOf, timeZone }: { fields: RuleFields; insteadOf: number | null; timeZone: string } =
    $props()

  const SHOWN = 12
  let rehearsed = $state.raw<Asked<AheadRehearsal> | null>(null)
  const asked = $derived(JSON.stringify({ fields, insteadOf }))
  $effect(() => {
    const request = { method: 'POST', headers: { 'content-type': 'application/json' }, body: asked }
    return askTyped<AheadRehearsal>(
      '/alerts/rules/days-left',
      request,
      'It could not be rehearsed.',
      (answer) => (rehearsed = answer),
    )
  })
  const rehearsal = $derived(rehearsed?.answer ?? null)
  const problem = $derived(rehearsed?.problem ?? null)
  const date = (atMs: number): string => formatDate(atMs, timeZone)
</script>

<Panel
  title="Rehearsal"
  note="what it would tell, as forecasts stand today, while it is typed"
  aria-label="Rehearsal"
>
  {#if problem !== null}
    <p class="text-ink-2">{problem}</p>
  {:else if rehearsal !== null}
    <p class="text-[15px] font-[560]" role="status" data-testid="rehearsed">{rehearsal.sentence}</p>
    {#if rehearsal.told.length > 0}
      <Table class="mt-3">
        <thead><tr><th>What runs out</th><th>Severity</th><th>Told</th><th>Runs out</th></tr></thead>
        <tbody>
          {#each rehearsal.told.slice(0, SHOWN) as { seriesId, name, severity, atMs, runOutMs }, index (seriesId)}
            <tr data-row>
              <td><Link href="/ahead/{seriesId}">{name}</Link></td>
              <td>{severity}</td>
              <td>{index < rehearsal.now ? 'now' : `on ${date(atMs)}`}</td>
              <td>{runOutMs === null ? 'already' : date(runOutMs)}</td>
            </tr>
          {/each}
        </tbody>
      </Table>
      {#if rehearsal.told.length > SHOWN}
        <p class="text-ink-2 mt-1 text-xs">{formatNumber(rehearsal.told.length - SHOWN, 0)} more later.</p>
      {/if}
    {/if}
  {/if}
  <p class="text-ink-2 mt-2 text-xs">
    Days left are counted to the date that is forecast, at which the critical line is reached.
    <Link href="/ahead">See what runs out</Link>
  </p>
</Panel>
