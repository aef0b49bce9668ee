<script lang="ts">
  import { untrack } from 'svelte'
  import { GEAR_KINDS } from '#core/catalogue'
  import { formatMoment } from '#core/units'
  import { enhance } from '$lib/client/forms'
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

<Fold class="panel" titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Name, tags and place{/snippet}
  {#if message !== null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
  <form
    method="POST"
    action="?/change"
    use:enhance={() =>
      ({ update }) =>
        update({ reset: false })}
    class="mt-2 flex flex-wrap items-end gap-2"
  >
    <label class="grid gap-0.5"
      >Name <input class="field w-52" name="name" required maxlength="64" bind:value={own.name} /></label
    >
    <label class="grid gap-0.5"
      >Tags, with commas <input
        class="field w-64"
        name="tags"
        bind:value={own.tags}
        placeholder="none"
      /></label
    >
    <label class="grid gap-0.5">
      Stands in
      <select class="field" name="rackId" bind:value={own.rackId}>
        <option value="">no rack: in the stock</option>
        {#each racks as rack (rack.id)}<option value={String(rack.id)}
            >{rack.name}, {rack.heightUnits} U</option
          >{/each}
      </select>
    </label>
    {#if own.rackId !== ''}
      <label class="grid gap-0.5"
        >Lowest U <input class="field w-16" name="unit" inputmode="numeric" bind:value={own.unit} /></label
      >
      <label class="grid gap-0.5"
        >High, U <input
          class="field w-16"
          name="heightUnits"
          inputmode="numeric"
          bind:value={own.heightUnits}
        /></label
      >
    {/if}
    <button class="btn btn-strong">Keep</button>
    <span class="muted">Its readings and alerts go with it.</span>
  </form>
  {#if sources.length > 1 || merges.length > 0}
    <ul class="border-rule-2 mt-3 grid gap-1 border-t pt-2">
      {#each merges as merge (merge.id)}
        <li>
          <form method="POST" action="?/undo" use:enhance class="flex items-center gap-2">
            <input type="hidden" name="merge" value={merge.id} />
            <span
              >Made one with {merge.name}
              <span class="muted"
                >({GEAR_KINDS[merge.kind].label.toLowerCase()}) by {merge.who}, {formatMoment(
                  merge.atMs,
                  frame.nowMs,
                  frame.timeZone,
                )}</span
              ></span
            >
            <button class="btn">Take apart again</button>
          </form>
        </li>
      {/each}
      {#if sources.length > 1}
        {#each sources as source (source.id)}
          <li>
            <form method="POST" action="?/split" use:enhance class="flex items-center gap-2">
              <input type="hidden" name="source" value={source.id} />
              <span class="muted">What {source.name} sees</span>
              <button
                class="btn"
                onclick={(event) => {
                  if (
                    !confirm(
                      `Does ${source.name} see another gear than this? It gets one of its own, with its readings.`,
                    )
                  )
                    event.preventDefault()
                }}>is another gear</button
              >
            </form>
          </li>
        {/each}
      {/if}
    </ul>
  {/if}
</Fold>
