<script lang="ts">
  import { page } from '$app/state'
  import { formatReading, measureOf } from '#core/catalogue'
  import { formatBytes, formatDate, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { ask } from '$lib/client/picked'
  import { WholeList } from '$lib/client/wholeList.svelte'
  import DisksPicture from '$lib/components/disks/DisksPicture.svelte'
  import DisksTabs from '$lib/components/disks/DisksTabs.svelte'
  import DataTable from '$lib/components/ui/DataTable.svelte'
  import type { Column } from '$lib/components/ui/dataTable'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import { MONO, SMALL } from '$lib/components/ui/looks'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Segments from '$lib/components/ui/Segments.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const list = new WholeList(
    () => data.list,
    () => '/disks/rows',
  )
  type Row = (typeof list.rows)[number]
  const by = $derived(page.url.searchParams.get('by') === 'age' ? ('age' as const) : ('date' as const))
  const words = $derived((page.url.searchParams.get('q') ?? '').toLowerCase())
  const only = $derived(page.url.searchParams.get('only') ?? '')
  const shown = $derived(
    list.rows.filter(
      (row) =>
        (only === '' || (only === 'trouble' ? row.trouble.severity !== null : row.lifeLeft === null)) &&
        `${row.name} ${row.gear} ${row.model ?? ''} ${row.serial ?? ''} ${row.partNumber ?? ''} ${row.group ?? ''} ${row.place}`
          .toLowerCase()
          .includes(words),
    ),
  )
  const stateWords = (row: Row): string =>
    row.state === null ? 'not told' : formatReading('hw.status', row.state)
  const roleWords = (row: Row): string =>
    row.role === null ? '' : (measureOf('hw.drive.role').states?.[row.role] ?? '')
  const predictWords = (row: Row): string =>
    row.predicts === null ? 'not told' : row.predicts ? 'fails soon' : 'none'
  const percent = (ratio: number): string => `${formatNumber(ratio * 100, 0)} %`
  const COLUMNS: readonly Column<Row>[] = [
    { key: 'drive', label: 'Drive', width: 'w-32 grow', value: ({ name, gear }) => `${gear} ${name}` },
    { key: 'place', label: 'Place', width: 'w-32', looks: MONO, isExtra: true, value: ({ place }) => place },
    { key: 'model', label: 'Model', width: 'w-28', looks: SMALL, value: ({ model }) => model },
    {
      key: 'serial',
      label: 'Serial',
      width: 'w-28',
      looks: MONO,
      isExtra: true,
      value: ({ serial }) => serial,
    },
    { key: 'state', label: 'State', width: 'w-16', order: ({ state }) => state, value: stateWords },
    { key: 'role', label: 'Role', width: 'w-24', looks: SMALL, order: ({ role }) => role, value: roleWords },
    { key: 'prediction', label: 'Prediction', width: 'w-18', value: predictWords },
    {
      key: 'life',
      label: 'Life left',
      width: 'w-18',
      isNumber: true,
      value: ({ lifeLeft }) => (lifeLeft === null ? null : Math.round(lifeLeft * 1000) / 10),
      text: ({ lifeLeft, used }) =>
        lifeLeft === null ? '' : used !== null && used > 1 ? `${percent(used)} used` : percent(lifeLeft),
      tip: ({ lifeFrom }) => (lifeFrom === 'rating' ? 'by what was written of its rated endurance' : ''),
    },
    {
      key: 'worn',
      label: 'Worn out',
      width: 'w-24',
      value: ({ wornMs }) => (wornMs === null ? null : new Date(wornMs).toISOString().slice(0, 10)),
      text: ({ wornMs }) => (wornMs === null ? '' : formatDate(wornMs, timeZone)),
      tip: ({ wornEarlyMs, wornLateMs }) =>
        wornEarlyMs === null
          ? ''
          : `between ${formatDate(wornEarlyMs, timeZone)} and ${wornLateMs === null ? 'later than two years' : formatDate(wornLateMs, timeZone)}`,
    },
    {
      key: 'writtenADay',
      label: 'Written a day',
      width: 'w-20',
      isNumber: true,
      value: ({ writtenADay }) => (writtenADay === null ? null : Math.round(writtenADay)),
      text: ({ writtenADay }) => (writtenADay === null ? '' : formatBytes(writtenADay)),
    },
    {
      key: 'writes',
      label: 'Full a day',
      width: 'w-16',
      isNumber: true,
      value: ({ writesADay }) => (writesADay === null ? null : Math.round(writesADay * 100) / 100),
      text: ({ writesADay }) => (writesADay === null ? '' : formatNumber(writesADay, 2)),
    },
    {
      key: 'celsius',
      label: 'Temp.',
      width: 'w-16',
      isNumber: true,
      value: ({ celsius }) => celsius,
      text: ({ celsius }) => (celsius === null ? '' : formatReading('hw.temperature', celsius)),
    },
    {
      key: 'media',
      label: 'Media errors',
      width: 'w-20',
      isNumber: true,
      isExtra: true,
      value: ({ mediaErrors, uncorrectable }) => mediaErrors ?? uncorrectable,
    },
    {
      key: 'age',
      label: 'Powered on',
      width: 'w-24',
      isNumber: true,
      isExtra: true,
      value: ({ powerOnHours }) => powerOnHours,
      text: ({ powerOnHours }) => (powerOnHours === null ? '' : `${formatNumber(powerOnHours, 0)} h`),
    },
  ]
  const PICTURES = $derived([
    { href: '/disks', label: 'By the date it is worn out', isCurrent: by === 'date' },
    { href: '/disks?by=age', label: 'By its age', isCurrent: by === 'age' },
  ])
</script>

<svelte:head><title>Disks · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{data.sentence}</h1>
<DisksTabs />

{#if data.count > 0}
  <div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_300px]">
    <Panel title="Life left" id="life">
      <div class="mb-2"><Segments label="Picture" items={PICTURES} /></div>
      <DisksPicture points={data.points} {by} nowMs={live.nowMs} {timeZone} />
    </Panel>
    <Panel title="Together" id="together" note="what one drive alone does not show">
      {#each data.groups as { group, gearId, sentence } (group)}
        <p class="border-rule-2 flex gap-2 border-t py-1.5 first:border-t-0" data-testid="group-at-risk">
          <span class="pt-0.5"><Glyph state="warning" /></span>
          <span>{sentence} <Link href="/gear/{gearId}">Open</Link></span>
        </p>
      {/each}
      {#each data.batches as batch (`${batch.model} ${batch.partNumber}`)}
        <p class="border-rule-2 text-ink-2 border-t py-1.5 text-xs first:border-t-0" data-testid="batch">
          {batch.count} × {batch.model}{batch.partNumber === null
            ? ''
            : `, ${batch.partNumber}`}{batch.hours === null
            ? ''
            : `, ${formatNumber(batch.hours[0], 0)} to ${formatNumber(batch.hours[1], 0)} h on`}:
          {batch.inTrouble} in trouble{batch.leastLife === null
            ? ''
            : `, the most worn has ${percent(batch.leastLife)} left`}.
        </p>
      {/each}
      {#if data.unrated.length > 0}
        <p class="border-rule-2 border-t py-1.5 text-xs first:border-t-0" data-testid="unrated">
          {data.unrated.join(' and ')}
          {data.unrated.length === 1 ? 'has' : 'have'} no word for {data.unrated.length === 1
            ? 'its'
            : 'their'} life, and nobody has entered what the maker promises: how long they last is not known.
          <Link href="/disks/ratings">Enter {data.unrated.length === 1 ? 'its rating' : 'their ratings'}</Link
          >
        </p>
      {/if}
      {#if data.groups.length === 0 && data.batches.length === 0 && data.unrated.length === 0}
        <p class="text-ink-2 text-xs">In no group do two drives near their end at once.</p>
      {/if}
    </Panel>
  </div>

  <Panel aria-label="Drives">
    <DataTable
      name="Drives"
      rows={shown}
      columns={COLUMNS}
      idOf={({ partId }) => partId}
      hrefOf={({ partId }) => `/disks/${partId}`}
      cells={{ drive, state }}
      rowTestid="drive-row"
      says="{shown.length} of {data.count} drives"
      height="max-h-[calc(100vh-260px)]"
    >
      {#snippet filters()}
        <Input
          class="w-56"
          aria-label="Search drives"
          placeholder="Name, model, serial, group, place"
          defaultValue={page.url.searchParams.get('q') ?? ''}
          oninput={(event) => ask({ q: event.currentTarget.value })}
        />
        <Select
          aria-label="Which drives"
          defaultValue={only}
          onchange={(value) => ask({ only: value })}
          options={[
            { value: '', label: 'all drives' },
            { value: 'trouble', label: 'in trouble' },
            { value: 'unknown', label: 'life not known' },
          ]}
        />
      {/snippet}
    </DataTable>
  </Panel>
{/if}

{#snippet drive(row: Row)}
  <span class="flex min-w-0 items-center gap-1.5">
    {#if row.trouble.severity !== null}<Glyph
        state={row.trouble.severity}
        label={row.trouble.words.join('; ')}
      />{/if}
    <span class="truncate" title={row.trouble.words.join('; ')}
      ><b class="font-[620]">{row.name}</b> <span class="text-ink-2">in {row.gear}</span></span
    >
  </span>
{/snippet}
{#snippet state(row: Row)}
  <span class={row.state === 2 ? 'text-crit' : row.state === 1 ? 'text-warn' : ''}>{stateWords(row)}</span>
{/snippet}
