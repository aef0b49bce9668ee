<script lang="ts">
  import PanelTitle from '$lib/components/ui/PanelTitle.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import { formatAgo, formatBytes, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AgeBars from '$lib/components/readings/AgeBars.svelte'
  import ImportReadings from '$lib/components/readings/ImportReadings.svelte'
  import KeepLines from '$lib/components/logs/KeepLines.svelte'
  import KeepFor from '$lib/components/readings/KeepFor.svelte'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import { askFreed } from '$lib/client/requests'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()

  const sealed = $derived(data.measures.reduce((total, each) => total + each.readings, 0))
  const sealedBytes = $derived(
    data.measures.reduce((total, each) => total + each.bytes + each.summaryBytes, 0),
  )
  const whole = $derived(
    data.tables.hotBytes + data.tables.chunkBytes + data.tables.summaryBytes + data.tables.otherBytes,
  )
  const rest = $derived.by(() => {
    const { ahead, expected, freeBytes } = data
    const room = freeBytes === null ? '' : ` ${formatBytes(freeBytes)} are free.`
    switch (ahead.kind) {
      case 'fills':
        return `The disk is full in about ${Math.floor(ahead.inDays)} days: it grows by ${formatBytes(ahead.bytesADay)} a day.`
      case 'notInSight':
        return `It grows by ${formatBytes(Math.max(0, ahead.bytesADay))} a day, to ${formatBytes(ahead.inAYearBytes)} in a year. A full disk is not in sight.${room}`
      case 'tooEarly':
        return expected === null
          ? `How it grows is not known yet: no day has been sealed.${room}`
          : `Too early to say how it grows; by the intervals that are set about ${formatBytes(expected.bytesADay * 365)} in a year.${room}`
      default:
        return ahead satisfies never
    }
  })
  const onDisk = $derived([
    { what: 'Sealed readings', bytes: data.tables.chunkBytes },
    { what: 'Their summaries', bytes: data.tables.summaryBytes },
    { what: 'Not sealed yet', bytes: data.tables.hotBytes },
    { what: 'Everything else', bytes: data.tables.otherBytes },
  ])
</script>

<svelte:head><title>Space · {data.shell.site.name}</title></svelte:head>

<SettingsTabs />
<h1><b class="font-[760]">The store takes {formatBytes(whole)}.</b> {rest}</h1>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_360px]">
  <Panel
    title="By measure"
    note={`${formatNumber(sealed, 0)} sealed readings${sealed > 0 ? `, ${(sealedBytes / sealed).toFixed(2)} B each with summaries` : ''} · surveyed ${formatAgo(data.surveyedMs, live.nowMs)}`}
    id="measures"
  >
    {#if form !== null && 'message' in form && form.message}<p class="text-crit mb-2" role="alert">
        {form.message}
      </p>{/if}
    {#if form !== null && 'kept' in form && form.kept}<p class="mb-2" role="status">
        Kept for {form.kept}. What is older goes within a minute.
      </p>{/if}
    <Table>
      <thead>
        <tr>
          <th>Measure</th>
          <th class="text-right!">Series</th>
          <th class="text-right!">Readings</th>
          <th class="text-right!">Takes</th>
          <th>Kept for days: readings, summaries</th>
        </tr>
      </thead>
      <tbody>
        {#each data.measures as each (each.measure)}
          <tr data-row data-testid="space-row">
            <td>{each.label} <span class="text-ink-3 font-mono text-[11px]">{each.measure}</span></td>
            <td class="text-right">{each.series}</td>
            <td class="text-right">{formatNumber(each.readings, 0)}</td>
            <td class="text-right whitespace-nowrap">{formatBytes(each.bytes + each.summaryBytes)}</td>
            <td>
              <KeepFor measure={each.measure} label={each.label} {...each.retention} ask={askFreed} />
            </td>
          </tr>
        {:else}
          <tr><td colspan="5" class="text-ink-2 text-xs">Nothing has been read yet.</td></tr>
        {/each}
      </tbody>
    </Table>
    <p class="text-ink-2 mt-2 text-xs">
      The default is {data.defaults.rawDays} days of unaltered readings and {data.defaults.summaryDays} days of
      their hours.
    </p>
  </Panel>
  <div class="grid gap-3.5">
    <Panel>
      <PanelTitle id="disk">
        On disk {#if data.freeBytes !== null}<span>{formatBytes(data.freeBytes)} free</span>{/if}
      </PanelTitle>
      <dl>
        {#each onDisk as { what, bytes } (what)}
          <div class="border-rule-2 flex justify-between border-t py-1.5">
            <dt class="text-ink-2 text-xs">{what}</dt>
            <dd>{formatBytes(bytes)}</dd>
          </div>
        {/each}
      </dl>
    </Panel>
    <Panel title="By age" note="sealed readings, thirty days each" id="ages">
      {#if data.ages.length === 0}
        <p class="text-ink-2 text-xs">A day is sealed half an hour after its end (UTC).</p>
      {:else}
        <AgeBars ages={data.ages} timeZone={data.shell.site.timeZone} />
      {/if}
    </Panel>
    <KeepLines
      lines={data.lines}
      message={(form !== null && 'linesMessage' in form ? form.linesMessage : null) ?? null}
    />
    <Panel title="Import readings" id="import">
      <ImportReadings />
    </Panel>
  </div>
</div>
