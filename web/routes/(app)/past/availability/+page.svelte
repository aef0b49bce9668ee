<script lang="ts">
  import { page } from '$app/state'
  import { serviceHoursText, SERVICE_HOURS, shareWords } from '#core/past'
  import { formatElapsed, formatMoment, formatNumber, spanWords, writeAmount } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { ask } from '$lib/client/picked'
  import PastTabs from '$lib/components/past/PastTabs.svelte'
  import ScopeField from '$lib/components/rules/ScopeField.svelte'
  import DataTable from '$lib/components/ui/DataTable.svelte'
  import type { Column } from '$lib/components/ui/dataTable'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Notice from '$lib/components/ui/Notice.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  type Row = (typeof data.rows)[number]
  let sort = $state('share')
  const HOURS = Object.values(SERVICE_HOURS).map(({ hours }) => serviceHoursText(hours))
  const WHERES = [
    ['everywhere', 'everything'],
    ['room', 'in the room'],
    ['rack', 'in the rack'],
    ['cluster', 'of the cluster'],
    ['tag', 'with the tag'],
    ['group', 'of the group'],
    ['gear', 'one gear'],
  ] as const
  const spanOf = (key: string, label: string, of: (row: Row) => number | null): Column<Row> => ({
    key,
    label,
    width: 'w-18',
    isNumber: true,
    value: (row) => of(row),
    text: (row) => {
      const ms = of(row)
      return ms === null || ms === 0 ? '' : `${ms < 0 ? '−' : ''}${formatElapsed(Math.abs(ms))}`
    },
  })
  const share = (value: number | null): string => (value === null ? 'not known' : shareWords(value))
  const COLUMNS: readonly Column<Row>[] = $derived([
    { key: 'name', label: 'Name', width: 'w-36 grow', value: ({ name }) => name },
    { key: 'what', label: 'What', width: 'w-14', looks: 'text-ink-2 text-xs', value: ({ what }) => what },
    {
      key: 'share',
      label: 'Available',
      width: 'w-18',
      isNumber: true,
      value: ({ of }) => of.share,
      text: ({ of }) => share(of.share),
      tip: ({ of }) => `at least ${share(of.leastShare)}, had it been down whenever nothing was heard`,
    },
    {
      key: 'level',
      label: 'Promised',
      width: 'w-14',
      isNumber: true,
      value: ({ level }) => level,
      text: ({ level }) => shareWords(level),
      tip: ({ hours }) => hours,
    },
    spanOf('down', 'Down', ({ of }) => of.downMs),
    spanOf('blind', 'Not heard', ({ of }) => of.blindMs),
    spanOf('work', 'Maintenance', ({ of }) => of.maintenanceMs),
    {
      key: 'outages',
      label: 'Outages',
      width: 'w-14',
      isNumber: true,
      value: ({ of }) => of.outages.length,
      text: ({ of }) => (of.outages.length === 0 ? '' : String(of.outages.length)),
    },
    spanOf('between', 'Between', ({ of }) => of.betweenMs),
    spanOf('mend', 'To mend', ({ of }) => of.mendMs),
    spanOf('left', 'Budget left', ({ budget }) => budget.leftMs),
    {
      key: 'pace',
      label: 'Pace',
      width: 'w-14',
      isNumber: true,
      value: ({ budget }) => budget.pace,
      text: ({ budget }) =>
        budget.pace === null || budget.pace === 0 ? '' : `${formatNumber(budget.pace, 1)} ×`,
      tip: () => '1 × uses the budget up just at the end of the period',
    },
  ])
</script>

<svelte:head><title>Availability · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{data.sentence}</h1>
<PastTabs />
{#each data.problems as problem (problem)}<Notice kind="problem" class="mb-2">{problem}</Notice>{/each}
<Panel aria-label="What is promised" class="mb-4">
  <div class="flex flex-wrap items-start gap-2.5">
    <ScopeField
      label="Of what"
      kinds={WHERES}
      places={data.places}
      bind:kind={
        () => page.url.searchParams.get('whereKind') ?? 'everywhere',
        (whereKind) => ask({ whereKind, whereValue: '' })
      }
      bind:value={() => page.url.searchParams.get('whereValue') ?? '', (whereValue) => ask({ whereValue })}
    />
    <Input
      label="Promised level"
      class="w-28"
      value={writeAmount(data.level, 'ratio')}
      onchange={(event) => ask({ level: event.currentTarget.value })}
    />
    <Input
      label="Service hours"
      class="w-72"
      value={data.hours}
      list="service-hours"
      maxlength="600"
      onchange={(event) => ask({ hours: event.currentTarget.value })}
    />
    <datalist id="service-hours">
      {#each HOURS as hours (hours)}<option value={hours}></option>{/each}
    </datalist>
    <p class="text-ink-2 self-end pb-1.5 text-xs">
      {spanWords(data.window, live.nowMs, timeZone)}: {formatElapsed(data.promisedMs)} promised, of which
      {formatElapsed((1 - data.level) * data.promisedMs)} may be missed.
    </p>
  </div>
</Panel>
<Panel aria-label="How it was kept">
  <DataTable
    name="Availability"
    rows={data.rows}
    columns={COLUMNS}
    idOf={(row) => data.rows.indexOf(row)}
    hrefOf={(row) => row.href}
    bind:sort
    says={`${data.rows.length} with something that tells whether they work; maintenance and what was not heard are counted apart`}
    empty="Nothing here tells whether it works."
    height="max-h-[44vh]"
    rowPx={28}
    rowTestid="availability-row"
  />
</Panel>
<Panel title="Outages" id="outages" note="the newest first" class="mt-4">
  {#if data.outages.length === 0}
    <p class="text-ink-2">None in this period.</p>
  {:else}
    <Table>
      <thead
        ><tr><th>What</th><th>From</th><th>To</th><th class="text-right">For</th><th>Because</th></tr></thead
      >
      <tbody>
        {#each data.outages as outage (outage.key)}
          <tr data-testid="outage">
            <td><Link href={outage.href}>{outage.name}</Link></td>
            <td>{formatMoment(outage.fromMs, live.nowMs, timeZone)}</td>
            <td
              >{outage.toMs >= live.nowMs - 60_000
                ? 'still'
                : formatMoment(outage.toMs, live.nowMs, timeZone)}</td
            >
            <td class="text-right">{formatElapsed(outage.toMs - outage.fromMs)}</td>
            <td>{outage.cause.join('; ')}</td>
          </tr>
        {/each}
      </tbody>
    </Table>
  {/if}
</Panel>
