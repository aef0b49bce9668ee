<script lang="ts">
  import { enhance } from '$lib/client/forms'

  /** What can be done with all gear that is marked in a list. */
  let {
    ids,
    racks,
    ownFields,
    mayAdminister,
    done,
  }: {
    ids: readonly number[]
    racks: readonly { readonly id: number; readonly name: string }[]
    ownFields: readonly string[]
    mayAdminister: boolean
    done: () => void
  } = $props()

  const DOES = $derived([
    ['quiet', 'quiet it'],
    ['accept', 'accept what is open on it'],
    ...(mayAdminister
      ? ([
          ['tag', 'give it a tag'],
          ['untag', 'take a tag from it'],
          ['own', 'write a field'],
          ['place', 'put it into a rack'],
        ] as const)
      : []),
  ] as const)
  let does = $state('quiet')
  const action = $derived(does === 'untag' ? 'tag' : does)
</script>

<form
  method="POST"
  action="?/{action}"
  use:enhance={() =>
    async ({ result, update }) => {
      await update({ reset: false })
      if (result.type === 'success') done()
    }}
  class="bg-accent-soft mb-2 flex flex-wrap items-center gap-2 px-2 py-1.5"
  data-testid="many"
>
  {#each ids as id (id)}<input type="hidden" name="id" value={id} />{/each}
  <b>{ids.length} marked:</b>
  <select class="field" aria-label="What to do with them" bind:value={does}>
    {#each DOES as [key, words] (key)}<option value={key}>{words}</option>{/each}
  </select>
  {#if does === 'quiet'}
    <select class="field" name="length" aria-label="For how long">
      {#each ['1 h', '4 h', '12 h', '1 d', '7 d'] as length (length)}<option value={length}
          >for {length}</option
        >{/each}
      <option value="open">until somebody ends it</option>
    </select>
  {/if}
  {#if does === 'quiet' || does === 'accept'}
    <input class="field w-64" name="reason" placeholder="because" aria-label="Reason" />
  {:else if does === 'tag' || does === 'untag'}
    <input type="hidden" name="does" value={does === 'tag' ? 'give' : 'take'} />
    <input class="field w-40" name="tag" maxlength="40" aria-label="Tag" />
  {:else if does === 'own'}
    <select class="field" name="field" aria-label="Field">
      {#each ownFields as field (field)}<option>{field}</option>{:else}<option value=""
          >no field is defined</option
        >{/each}
    </select>
    <input class="field w-56" name="value" maxlength="200" aria-label="What stands in it" />
  {:else if does === 'place'}
    <select class="field" name="rackId" aria-label="Rack">
      {#each racks as rack (rack.id)}<option value={rack.id}>{rack.name}</option>{/each}
    </select>
    <label class="muted flex items-center gap-1.5"
      >units each <input class="field w-16" name="heightUnits" inputmode="numeric" value="1" /></label
    >
  {/if}
  <button class="btn btn-strong">Do it</button>
  <button class="btn ml-auto" type="button" onclick={done}>Unmark</button>
</form>
