<script lang="ts">
  import { unitLabel } from '#core/site'
  import type { Carrying } from './carrying.svelte'

  /** What is carried, whether it fits, and by which keys it moves. */
  let { carrying, isPlan }: { carrying: Carrying; isPlan: boolean } = $props()
  const { carried, rack, refusal, problem, notice } = $derived(carrying)
  const KEYS = [
    ['↑↓', 'unit'],
    ['←→', 'rack'],
    ['f', 'face'],
    ['+−', 'height'],
    ['Enter', 'set down'],
    ['s', 'to the stock'],
    ['Esc', 'leave'],
  ] as const
</script>

{#snippet keyed(key: string)}<kbd class="border-rule rounded-[2px] border px-1 font-mono text-[10px]"
    >{key}</kbd
  >{/snippet}

<!-- Room for two lines: what is said while something is carried must not move the racks away from under it. -->
<p class="h-10" aria-live="polite" data-testid="move-says">
  {#if carried !== null}
    <b>{carried.name}</b>
    {rack === null ? '' : `in ${rack.name}, ${unitLabel(carried)}`}{carried.face === 'both'
      ? ''
      : `, ${carried.face}`}:
    {#if refusal !== null}<span class="text-crit">{refusal}</span>{:else}free.{/if}
    <span class="text-ink-2 text-xs">
      {#each KEYS as [key, does] (key)}<span class="ml-2">{@render keyed(key)} {does}</span>{/each}
    </span>
  {:else if problem !== null}<span class="text-crit" role="alert">{problem}</span>
  {:else if notice !== null}{notice}
  {:else if isPlan}<span class="text-ink-2 text-xs"
      >Drag a rack or a thing on the floor, or focus it and press the arrow keys; {@render keyed('r')} turns it.</span
    >
  {:else}<span class="text-ink-2 text-xs"
      >Drag a gear to other units, or focus it and press {@render keyed('m')}. Take one from the stock the
      same way.</span
    >{/if}
</p>
