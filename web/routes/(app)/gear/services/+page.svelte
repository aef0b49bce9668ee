<script lang="ts">
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import { keptWords } from '$lib/components/services/keptWords'
  import KeptDays from '$lib/components/services/KeptDays.svelte'
  import EmptyState from '$lib/components/ui/EmptyState.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const timeZone = $derived(data.shell.site.timeZone)
</script>

<svelte:head><title>Services · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{data.sentence}</h1>
<GearTabs />
{#if data.services.length === 0}
  <EmptyState
    text="A service is a group that people are promised, told in words without hardware. Any group can be one."
  >
    <Link href="/gear/groups">Groups</Link>
  </EmptyState>
{/if}
<ul class="grid grid-cols-2 gap-4">
  {#each data.services as service (service.id)}
    <li data-row data-testid="service">
      <Panel aria-label={service.called} class="h-full">
        <div class="grid grid-cols-[34px_minmax(0,1fr)] gap-x-2">
          <Glyph state={service.state} isLarge />
          <div>
            <h2 class="text-base font-[640]">
              <Link href="/gear/groups/{service.id}">{service.called}</Link>
            </h2>
            <p class="mt-0.5 text-[15px]" data-testid="service-sentence">{service.sentence}</p>
            <p class="text-ink-2 mt-1 text-xs">{service.note}</p>
            {#if service.kept !== null}
              <p class="mt-2 mb-1" class:text-crit={service.isPromised && service.kept.budget.leftMs < 0}>
                {keptWords(service.kept, service.isPromised)}
              </p>
              <KeptDays days={service.kept.days} {timeZone} />
            {:else}
              <p class="text-ink-2 mt-2 text-xs">
                Not all of its gear tells whether it works, so nothing is said of how it did.
              </p>
            {/if}
            <p class="text-ink-2 mt-1 text-xs">
              {service.owner === ''
                ? 'Nobody is named as its owner'
                : `Owner: ${service.owner}`}{service.kept !== null && service.isPromised
                ? ` · promised ${service.kept.hours}`
                : ''}
            </p>
          </div>
        </div>
      </Panel>
    </li>
  {/each}
</ul>
