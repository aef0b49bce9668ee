<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import { STATE_PREDICATES } from '#core/gear'
  import { useLive } from '$lib/client/live.svelte'
  import { showSeries } from '$lib/client/picked'
  import { checkSource } from '$lib/client/requests'
  import { type GearFrame, SECTIONS } from '$lib/components/gear/sections'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()

  const facts = $derived(
    [
      [data.gear.facts['maker'], data.gear.facts['model']]
        .filter((word, index, all) => word && !all[1]?.startsWith(index === 0 ? `${word} ` : '\n'))
        .join(' '),
      data.gear.facts['serial'] && `serial ${data.gear.facts['serial']}`,
      data.gear.facts['firmware'] && `firmware ${data.gear.facts['firmware']}`,
      data.gear.facts['hosts'] && `hosts ${data.gear.facts['hosts']}`,
      data.gear.facts['processors'] && `${data.gear.facts['processors']} processors`,
    ].filter(Boolean),
  )
  const polled = $derived((data.sections.why?.sources ?? []).filter(({ isPolled }) => isPolled))
  let notice = $state<string | null>(null)

  async function checkNow(): Promise<void> {
    const done = await Promise.all(polled.map((source) => checkSource(source.id)))
    const refused = done.find((each) => each.kind === 'refused')
    notice =
      refused?.kind === 'refused'
        ? refused.message
        : `Asked ${polled.map((source) => source.name).join(' and ')}; values follow as they come.`
  }

  const messages = $derived((form ?? {}) as Readonly<Record<string, unknown>>)
  // One object for all sections: each follows only what it reads of it.
  const frame: GearFrame = {
    get gear() {
      return data.gear
    },
    get nowMs() {
      return live.nowMs
    },
    get timeZone() {
      return data.shell.site.timeZone
    },
    get mayOperate() {
      return data.mayOperate
    },
    get mayAdminister() {
      return data.mayAdminister
    },
    messageOf: (name) => (typeof messages[name] === 'string' ? messages[name] : null),
    pick: (seriesIds) => showSeries([...new Set([...seriesIds, ...(data.sections.curves?.picked ?? [])])]),
  }
  const shown = $derived(SECTIONS.filter(({ key }) => data.sections[key] !== null))
  const main = $derived(shown.filter(({ place }) => place === 'main'))
  const aside = $derived(shown.filter(({ place }) => place === 'aside'))
  const below = $derived(shown.filter(({ place }) => place === 'below'))
</script>

<svelte:head><title>{data.gear.name} · {data.shell.site.name}</title></svelte:head>

<div class="flex items-start justify-between gap-4">
  <div>
    <h1>
      {data.gear.name}
      <span class="text-ink-2 font-[450]"
        >— {data.gear.role}, {data.gear.off === null
          ? STATE_PREDICATES[data.gear.state]
          : data.gear.state === 'well'
            ? data.gear.off
            : `${data.gear.off}, ${STATE_PREDICATES[data.gear.state]}`}</span
      >
    </h1>
    <p class="text-ink-2 mt-0.5 text-xs">
      {facts.join(' · ')}{facts.length > 0 ? ' · ' : ''}
      <span class="place">{data.gear.place ?? 'not placed yet'}</span>
      {#if data.gear.feeds.length > 0}
        · fed by
        {#each data.gear.feeds as feed, index (feed.id)}
          {index > 0 ? ' and ' : ''}<Link class="font-semibold" href="/gear/{feed.id}">{feed.name}</Link>
        {/each}
      {/if}
      · seen by {data.gear.sourceIds.length} source{data.gear.sourceIds.length === 1 ? '' : 's'}
      {#each data.gear.tags as tag (tag)}<a
          class="border-rule ml-1 border px-1 text-[11px] hover:underline"
          href="/gear?q={encodeURIComponent(tag)}">{tag}</a
        >{/each}
    </p>
  </div>
  {#if data.mayOperate && polled.length > 0}
    <Button look="strong" onclick={checkNow}>Check now</Button>
  {/if}
</div>
{#if notice !== null}<p class="text-ink-2 text-xs" role="status">{notice}</p>{/if}

<Panel class="grid grid-cols-1 p-0! lg:grid-cols-[minmax(0,1fr)_330px]">
  <div class="px-3.5 py-3">
    {#each main as { key, component: Part } (key)}<Part view={data.sections[key]} {frame} />{/each}
  </div>
  <div class="border-rule border-l px-3.5 py-3">
    {#each aside as { key, component: Part } (key)}<Part view={data.sections[key]} {frame} />{/each}
  </div>
</Panel>

{#key data.gear.id}
  {#each below as { key, component: Part } (key)}<Part view={data.sections[key]} {frame} />{/each}
{/key}
