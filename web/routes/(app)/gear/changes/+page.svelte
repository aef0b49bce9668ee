<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import { changeSentence } from '#core/gear'
  import { formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const week = $derived(data.changes.filter(({ atMs }) => atMs > live.nowMs - 7 * 86_400_000).length)
</script>

<svelte:head><title>What has changed · {data.shell.site.name}</title></svelte:head>

<h1>
  {data.changes.length === 0
    ? 'Nothing of any gear has changed yet.'
    : `${week === data.most ? `More than ${week}` : week} change${week === 1 ? '' : 's'} in the last seven days.`}
</h1>
<GearTabs />
<Panel aria-label="Changes">
  <ul>
    {#each data.changes as change (change.id)}
      <li
        class="border-rule-2 grid grid-cols-[130px_180px_minmax(0,1fr)_auto] gap-3 border-t py-1.5 first:border-t-0"
        data-row
      >
        <span class="text-ink-2 text-xs"
          >{formatMoment(change.atMs, live.nowMs, data.shell.site.timeZone)}</span
        >
        <Link class="font-semibold" href="/gear/{change.gearId}">{change.gear}</Link>
        <span>{changeSentence(change)}</span>
        <span class="text-ink-2 text-xs">{change.who ?? 'by itself'}</span>
      </li>
    {:else}
      <li class="text-ink-2 text-xs">
        A drive that is replaced, firmware that is changed, a gear that is moved: it will stand here.
      </li>
    {/each}
  </ul>
</Panel>
