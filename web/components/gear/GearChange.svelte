<script lang="ts">
  import Confirm from '../ui/Confirm.svelte'
  import Form from '../ui/Form.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import { untrack } from 'svelte'
  import { GEAR_KINDS } from '#core/catalogue'
  import { formatMoment } from '#core/units'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from './sections'
  import Fold from '../ui/Fold.svelte'

  /** What people may say of a gear: name, tags, place; and that it is one with another, or two. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['change']>> = $props()
  const { gear } = $derived(frame)
  const { racks, sources, merges } = $derived(view)
  const message = $derived(frame.messageOf('message'))
  // What is being entered is the person's, whatever the screen is told meanwhile.
  const own = $state(
    untrack(() => ({
      name: gear.name,
      tags: gear.tags.join(', '),
      rackId: String(gear.rackId ?? ''),
      unit: String(gear.unit ?? 1),
      heightUnits: String(gear.heightUnits ?? 1),
    })),
  )
</script>

<Fold isPanel titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Name, tags and place{/snippet}
  {#if message !== null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
  <Form
    action="?/change"
    submit={() =>
      ({ update }) =>
        update({ reset: false })}
    class="mt-2 flex flex-wrap items-end gap-2"
  >
    <Input label="Name" class="w-52" name="name" required maxlength="64" bind:value={own.name} />
    <Input label="Tags (comma-separated)" class="w-64" name="tags" bind:value={own.tags} placeholder="none" />
    <Select
      label="Location"
      name="rackId"
      bind:value={own.rackId}
      options={[
        { value: '', label: 'no rack: in the stock' },
        ...racks.map((rack) => ({ value: String(rack.id), label: `${rack.name}, ${rack.heightUnits} U` })),
      ]}
    />
    {#if own.rackId !== ''}
      <Input label="Lowest unit (U)" class="w-16" name="unit" inputmode="numeric" bind:value={own.unit} />
      <Input
        label="Height (U)"
        class="w-16"
        name="heightUnits"
        inputmode="numeric"
        bind:value={own.heightUnits}
      />
    {/if}
    <Button look="strong">Save</Button>
    <span class="text-ink-2 text-xs">Its readings and alerts go with it.</span>
  </Form>
  {#if sources.length > 1 || merges.length > 0}
    <ul class="border-rule-2 mt-3 grid gap-1 border-t pt-2">
      {#each merges as merge (merge.id)}
        <li>
          <Form action="?/undo" class="flex items-center gap-2">
            <input type="hidden" name="merge" value={merge.id} />
            <span
              >Made one with {merge.name}
              <span class="text-ink-2 text-xs"
                >({GEAR_KINDS[merge.kind].label.toLowerCase()}) by {merge.who}, {formatMoment(
                  merge.atMs,
                  frame.nowMs,
                  frame.timeZone,
                )}</span
              ></span
            >
            <Button>Split again</Button>
          </Form>
        </li>
      {/each}
      {#if sources.length > 1}
        {#each sources as source (source.id)}
          <li>
            <Form action="?/split" class="flex items-center gap-2">
              <input type="hidden" name="source" value={source.id} />
              <span class="text-ink-2 text-xs">What {source.name} sees</span>
              <Confirm
                label="Split off"
                question="Does {source.name} see another gear than this?"
                consequence="It gets a gear of its own, with its readings."
                act="Split"
              />
            </Form>
          </li>
        {/each}
      {/if}
    </ul>
  {/if}
</Fold>
