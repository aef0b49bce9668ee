<script lang="ts">
  import { changeSentence } from '#core/gear'
  import { formatMoment } from '#core/units'
  import { enhance } from '$lib/client/forms'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from './sections'
  import Fold from '../ui/Fold.svelte'

  /** What is known of a gear for the inventory, and what has changed of it. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['history']>> = $props()
  const changes = $derived(view.changes)
  const own = $derived(view.inventory)
  const message = $derived(frame.messageOf('inventoryMessage'))
  const facts = $derived(
    [
      ['Model', own.model],
      ['Serial', own.serial],
      ['Firmware', own.firmware],
      ['Warranty ends', own.warrantyEnds ?? ''],
      ['Feeds', own.feeds],
      ['First seen', own.firstSeen],
      ['Last seen', own.lastSeen],
      ...own.own,
    ].filter(([, value]) => value !== ''),
  )
</script>

<Fold class="panel" titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Inventory <span class="muted"
      >{changes.length === 0
        ? 'nothing of it has changed since it was first seen'
        : `${changes.length} change${changes.length === 1 ? '' : 's'}, the last: ${changeSentence(changes[0]!)}`}</span
    >{/snippet}
  <div class="mt-2 grid grid-cols-[300px_minmax(0,1fr)] gap-6">
    <div>
      <dl class="grid grid-cols-[110px_minmax(0,1fr)] content-start gap-x-3 gap-y-1">
        {#each facts as [label, value] (label)}<dt class="muted">{label}</dt>
          <dd>{value}</dd>{/each}
      </dl>
      {#if frame.mayAdminister}
        <form
          method="POST"
          action="?/inventory"
          use:enhance={() =>
            ({ update }) =>
              update({ reset: false })}
          class="border-rule-2 mt-3 grid gap-2 border-t pt-2"
        >
          {#if message !== null}<p class="text-crit" role="alert">{message}</p>{/if}
          <label class="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-3"
            >Warranty ends <input
              class="field"
              type="date"
              name="warrantyEnds"
              defaultValue={own.warrantyEnds ?? ''}
            /></label
          >
          {#each own.own as [name, value] (name)}
            <label class="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-3"
              >{name} <input class="field" name="own.{name}" maxlength="200" defaultValue={value} /></label
            >
          {/each}
          <button class="btn justify-self-start">Write it down</button>
        </form>
      {/if}
    </div>
    <ul data-testid="changes">
      {#each changes as change (change.id)}
        <li class="border-rule-2 grid grid-cols-[120px_minmax(0,1fr)_auto] gap-3 border-t py-1">
          <span class="muted">{formatMoment(change.atMs, frame.nowMs, frame.timeZone)}</span>
          <span>{changeSentence(change)}</span>
          <span class="muted">{change.who ?? 'by itself'}</span>
        </li>
      {/each}
    </ul>
  </div>
</Fold>
