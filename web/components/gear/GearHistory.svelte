<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import { changeSentence } from '#core/gear'
  import { formatMoment } from '#core/units'
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

<Fold isPanel titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Inventory <span class="text-ink-2 text-xs"
      >{changes.length === 0
        ? 'nothing of it has changed since it was first seen'
        : `${changes.length} change${changes.length === 1 ? '' : 's'}, the last: ${changeSentence(changes[0]!)}`}</span
    >{/snippet}
  <div class="mt-2 grid grid-cols-1 gap-6 lg:grid-cols-[300px_minmax(0,1fr)]">
    <div>
      <dl class="grid grid-cols-[110px_minmax(0,1fr)] content-start gap-x-3 gap-y-1">
        {#each facts as [label, value] (label)}<dt class="text-ink-2 text-xs">{label}</dt>
          <dd>{value}</dd>{/each}
      </dl>
      {#if frame.mayAdminister}
        <Form
          action="?/inventory"
          submit={() =>
            ({ update }) =>
              update({ reset: false })}
          class="border-rule-2 mt-3 grid gap-2 border-t pt-2"
        >
          {#if message !== null}<p class="text-crit" role="alert">{message}</p>{/if}
          <Input
            label="Warranty ends"
            type="date"
            name="warrantyEnds"
            defaultValue={own.warrantyEnds ?? ''}
          />
          {#each own.own as [name, value] (name)}
            <Input label={name} name="own.{name}" maxlength="200" defaultValue={value} />
          {/each}
          <Button class="justify-self-start">Save</Button>
        </Form>
      {/if}
    </div>
    <ul data-testid="changes">
      {#each changes as change (change.id)}
        <li class="border-rule-2 grid grid-cols-[120px_minmax(0,1fr)_auto] gap-3 border-t py-1">
          <span class="text-ink-2 text-xs">{formatMoment(change.atMs, frame.nowMs, frame.timeZone)}</span>
          <span>{changeSentence(change)}</span>
          <span class="text-ink-2 text-xs">{change.who ?? 'by itself'}</span>
        </li>
      {/each}
    </ul>
  </div>
</Fold>
