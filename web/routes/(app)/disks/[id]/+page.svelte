<script lang="ts">
  import { formatReading, measureOf } from '#core/catalogue'
  import { formatAgo, formatBytes, formatDate, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import { MONO } from '$lib/components/ui/looks'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const drive = $derived(data.drive)
  const percent = (ratio: number): string => `${formatNumber(ratio * 100, 0)} %`
  const day = (ms: number): string => formatDate(ms, timeZone)

  const headline = $derived.by(() => {
    const name = `${drive.name} in ${drive.gear}`
    const { words } = drive.trouble
    const worn = drive.wornMs === null ? '' : `; worn out about ${day(drive.wornMs)}`
    if (words.length > 0) return `${name}: ${words.join('; ')}${worn}.`
    const life = drive.lifeLeft === null ? '' : `, with ${percent(drive.lifeLeft)} of its life left`
    return `${name} is well${life}${worn}.`
  })
  const lifeWords = $derived(
    drive.lifeLeft === null
      ? drive.writtenBytes === null
        ? 'not told'
        : 'not known: the drive has no word for it, and its rating is missing'
      : `${percent(drive.lifeLeft)} left${
          drive.used !== null && drive.used > 1 ? `, ${percent(drive.used)} of its endurance used` : ''
        }, ${drive.lifeFrom === 'rating' ? 'by what was written of its rated endurance' : 'by its own word'}`,
  )
  /** How long its rating lasts if it is written to as in the last weeks. */
  const years = $derived(
    drive.ratedBytes === null || drive.writtenADay === null || drive.writtenADay <= 0
      ? null
      : (drive.ratedBytes - (drive.writtenBytes ?? 0)) / drive.writtenADay / 365,
  )
  const facts = $derived([
    ['Model', drive.model ?? 'not told'],
    ['Serial', drive.serial ?? 'not told'],
    ...(drive.partNumber === null ? [] : [['Part number', drive.partNumber]]),
    ['Size', drive.capacityBytes === null ? 'not told' : formatBytes(drive.capacityBytes)],
    ['Group', drive.group ?? 'none that is told'],
    ['Place', drive.place === '' ? 'no rack' : drive.place],
    ['Powered on', drive.powerOnHours === null ? 'not told' : `${formatNumber(drive.powerOnHours, 0)} h`],
    ['Written so far', drive.writtenBytes === null ? 'not told' : formatBytes(drive.writtenBytes)],
    [
      'Written a day',
      drive.writtenADay === null
        ? 'not known yet'
        : `${formatBytes(drive.writtenADay)}${drive.writesADay === null ? '' : `, ${formatNumber(drive.writesADay, 2)} times full`}`,
    ],
    [
      'Rated endurance',
      drive.ratedBytes === null
        ? 'not entered'
        : `${formatBytes(drive.ratedBytes)}${years === null ? '' : `; what is left lasts ${formatNumber(Math.max(0, years), 1)} years at this pace`}`,
    ],
  ])
  const curve = (seriesId: number): string => `/gear/${drive.gearId}?w=30d&r=${seriesId}`
</script>

<svelte:head><title>{drive.name} in {drive.gear} · Disks · {data.shell.site.name}</title></svelte:head>

<nav aria-label="Above"><Link class="text-ink-2 text-xs" href="/disks">Disks</Link></nav>
<h1 data-testid="sentence">{headline}</h1>
<p class="text-ink-2 -mt-2 text-xs">
  <Link href="/gear/{drive.gearId}">Open {drive.gear}</Link>
  {#if drive.aheadId !== null}
    · <Link href="/ahead/{drive.aheadId}">when it is worn out</Link>
  {/if}
  {#if data.ahead !== null}· {data.ahead.sentence}{/if}
</p>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-2">
  <Panel title="Three truths" id="truths" note="they need not agree">
    <Table>
      <tbody>
        <tr data-testid="truth-state">
          <td class="text-ink-2 w-40">State of the part</td>
          <td
            >{drive.state === null ? 'not told' : formatReading('hw.status', drive.state)}
            {#if drive.state !== null && drive.state > 0}<Glyph
                state={drive.state === 2 ? 'critical' : 'warning'}
              />{/if}</td
          >
        </tr>
        <tr data-testid="truth-role">
          <td class="text-ink-2">Role in its group</td>
          <td
            >{drive.role === null
              ? 'not told'
              : (measureOf('hw.drive.role').states?.[drive.role] ?? drive.role)}</td
          >
        </tr>
        <tr data-testid="truth-prediction">
          <td class="text-ink-2">Its own prediction</td>
          <td
            >{drive.predicts === null
              ? 'not told'
              : drive.predicts
                ? 'it predicts its own failure'
                : 'it predicts no failure'}
            {#if drive.predicts}<Glyph state="critical" />{/if}</td
          >
        </tr>
        <tr><td class="text-ink-2">Life</td><td data-testid="life">{lifeWords}</td></tr>
        <tr>
          <td class="text-ink-2">Worn out</td>
          <td data-testid="worn"
            >{drive.wornMs === null
              ? 'not within two years, or too early to say'
              : `${day(drive.wornMs)}, between ${drive.wornEarlyMs === null ? 'now' : day(drive.wornEarlyMs)} and ${drive.wornLateMs === null ? 'later than two years' : day(drive.wornLateMs)}${drive.orderByMs === null ? '' : `; order by ${day(drive.orderByMs)}`}`}</td
          >
        </tr>
      </tbody>
    </Table>
  </Panel>
  <Panel title="What it is" id="facts">
    <Table>
      <tbody>
        {#each facts as [name, value] (name)}
          <tr><td class="text-ink-2 w-32">{name}</td><td>{value}</td></tr>
        {/each}
      </tbody>
    </Table>
    {#if drive.ratedBytes === null && drive.lifeFrom !== 'drive'}
      <p class="mt-1 text-xs"><Link href="/disks/ratings">Enter the rating of this model</Link></p>
    {/if}
  </Panel>
</div>

{#if data.page !== null}
  <Panel
    title={data.page.kind === 'nvme-health' ? 'Health page (NVM Express)' : 'Attributes (ATA SMART)'}
    id="page"
    note="as its host read it {formatAgo(data.page.readMs, live.nowMs)}; a name leads to its curve"
  >
    {#if data.page.problem !== null}
      <p class="text-crit">The page cannot be read: {data.page.problem}.</p>
    {:else}
      <Table>
        <thead
          ><tr>
            {#if data.page.kind === 'ata-smart'}<th class="w-10">No.</th>{/if}
            <th>What</th>
            {#if data.page.kind === 'ata-smart'}
              <th>Warns of</th><th class="text-right">Value</th><th class="text-right">Worst</th>
              <th class="text-right">Threshold</th><th>Raw (48 bits)</th>
            {/if}
            <th>{data.page.kind === 'ata-smart' ? 'Raw in words' : 'Value'}</th><th>Why it matters</th><th
            ></th>
          </tr></thead
        >
        <tbody>
          {#each data.page.rows as row (row.ata?.id ?? row.name)}
            <tr data-testid="page-row" class={row.isTrouble ? 'bg-warn-soft' : ''}>
              {#if row.ata !== null}<td class={MONO}>{row.ata.id}</td>{/if}
              <td
                >{#if row.seriesId !== null}<Link href={curve(row.seriesId)}>{row.name}</Link
                  >{:else}{row.name}{/if}
                {#if row.isTrouble}<Glyph state="warning" />{/if}</td
              >
              {#if row.ata !== null}
                <td>{row.ata.warnsOf}</td>
                <td class="text-right">{row.ata.value}</td>
                <td class="text-right">{row.ata.worst}</td>
                <td class="text-right">{row.ata.threshold ?? 'none'}</td>
                <td class={MONO}>{row.raw}</td>
              {/if}
              <td>{row.words ?? 'shown raw: only its maker knows how it is packed'}</td>
              <td class="text-ink-2 text-xs">{row.why ?? ''}</td>
              <td class="text-right text-xs whitespace-nowrap"
                >{#if data.mayAdminister && row.seriesId !== null}<Link
                    href="/alerts/rules/new?series={row.seriesId}">set a line</Link
                  >{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </Table>
    {/if}
  </Panel>
{:else}
  <Panel
    title="Readings"
    id="readings"
    note="told by its controller; no host has sent the page of the drive itself"
  >
    <p class="flex flex-wrap gap-x-4 gap-y-1">
      {#each data.series as { seriesId, label } (seriesId)}<Link href={curve(seriesId)}>{label}</Link
        >{:else}<span class="text-ink-2">Nothing is read of it.</span>{/each}
    </p>
  </Panel>
{/if}

{#if data.services.inBay.length > 1 || data.services.elsewhere.length > 0}
  <Panel title="Before" id="before" note="history stays with the serial number">
    <Table>
      <tbody>
        {#each data.services.inBay.slice(1) as service (service.sinceMs)}
          <tr data-testid="earlier">
            <td class="text-ink-2 w-40">In this bay</td>
            <td><span class={MONO}>{service.serial}</span> {service.model ?? ''}</td>
            <td>until {day(service.untilMs ?? live.nowMs)}</td>
          </tr>
        {/each}
        {#each data.services.elsewhere as service (`${service.partId} ${service.sinceMs}`)}
          <tr>
            <td class="text-ink-2 w-40">This drive</td>
            <td><Link href="/disks/{service.partId}">{service.bay} in {service.gear}</Link></td>
            <td>{service.untilMs === null ? 'is told from there, too' : `until ${day(service.untilMs)}`}</td>
          </tr>
        {/each}
      </tbody>
    </Table>
  </Panel>
{/if}
