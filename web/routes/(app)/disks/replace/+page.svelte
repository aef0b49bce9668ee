<script lang="ts">
  import { byKey } from '#core/disks'
  import { formatDate, formatNumber } from '#core/units'
  import DisksTabs from '$lib/components/disks/DisksTabs.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import EmptyState from '$lib/components/ui/EmptyState.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import { MONO } from '$lib/components/ui/looks'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const timeZone = $derived(data.shell.site.timeZone)
  const now = $derived(data.list.filter(({ orderByMs }) => orderByMs === null).length)
  const sentence = $derived(
    data.list.length === 0
      ? 'No drive is to be replaced within a year.'
      : `${data.list.length} ${data.list.length === 1 ? 'drive is' : 'drives are'} to be replaced within a year${now === 0 ? '' : `, ${now} of them now`}.`,
  )
  const models = $derived(
    [...byKey(data.list, ({ drive }) => drive.model ?? 'of unknown model')].map(
      ([model, all]) => `${all.length} × ${model}`,
    ),
  )
</script>

<svelte:head><title>To be replaced · Disks · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>
<div class="print:hidden"><DisksTabs /></div>

{#if data.list.length === 0}
  <EmptyState text="What fails, predicts its own failure or wears out within a year stands here." />
{:else}
  <Panel title="In the order in which to replace them" id="replace" note={models.join(', ')}>
    <p class="mb-2 flex gap-3 text-xs print:hidden">
      <Button onclick={() => print()}>Print</Button>
      <Link href="/disks/replace/file" download>CSV</Link>
    </p>
    <Table>
      <thead
        ><tr>
          <th class="w-24">Order by</th><th class="w-24">Worn out</th><th>Drive</th><th>Place</th><th
            >Model</th
          >
          <th>Serial</th><th class="text-right">Life left</th><th>Why</th>
        </tr></thead
      >
      <tbody>
        {#each data.list as { drive, orderByMs, why } (drive.partId)}
          <tr data-testid="replacement">
            <td class={orderByMs === null ? 'text-crit font-[620]' : ''}
              >{orderByMs === null ? 'now' : formatDate(orderByMs, timeZone)}</td
            >
            <td>{drive.wornMs === null ? '' : formatDate(drive.wornMs, timeZone)}</td>
            <td><Link href="/disks/{drive.partId}">{drive.name}</Link> in {drive.gear}</td>
            <td class={MONO}>{drive.place}</td>
            <td>{drive.model ?? ''}</td>
            <td class={MONO}>{drive.serial ?? ''}</td>
            <td class="text-right"
              >{drive.lifeLeft === null ? '' : `${formatNumber(drive.lifeLeft * 100, 0)} %`}</td
            >
            <td class="text-ink-2">{why}</td>
          </tr>
        {/each}
      </tbody>
    </Table>
  </Panel>
{/if}
