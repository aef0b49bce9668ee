<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Combobox from '../ui/Combobox.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'

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
  let refusal = $state<string | null>(null)
</script>

<Form
  action="?/{action}"
  submit={() =>
    async ({ result, update }) => {
      refusal = result.type === 'failure' ? String(result.data?.['message'] ?? '') : null
      if (result.type === 'failure') return
      await update({ reset: false })
      if (result.type === 'success') done()
    }}
  class="bg-accent-soft mb-2 flex flex-wrap items-center gap-2 px-2 py-1.5"
  data-testid="many"
>
  {#each ids as id (id)}<input type="hidden" name="id" value={id} />{/each}
  <b>{ids.length} marked:</b>
  <Select
    aria-label="Act"
    bind:value={does}
    options={DOES.map(([key, words]) => ({ value: key, label: words }))}
  />
  {#if does === 'quiet'}
    <Select
      name="length"
      aria-label="For how long"
      options={[
        ...['1 h', '4 h', '12 h', '1 d', '7 d'].map((length) => ({ value: length, label: `for ${length}` })),
        { value: 'open', label: 'until somebody ends it' },
      ]}
    />
  {/if}
  {#if does === 'quiet' || does === 'accept'}
    <Input class="w-64" name="reason" placeholder="because" aria-label="Reason" />
  {:else if does === 'tag' || does === 'untag'}
    <input type="hidden" name="does" value={does === 'tag' ? 'give' : 'take'} />
    <Input class="w-40" name="tag" maxlength="40" aria-label="Tag" />
  {:else if does === 'own'}
    <Select
      name="field"
      aria-label="Field"
      options={ownFields.map((field) => ({ value: field, label: field }))}
    />
    <Input class="w-56" name="value" maxlength="200" aria-label="Value" />
  {:else if does === 'place'}
    <Combobox
      name="rackId"
      aria-label="Rack"
      options={racks.map((rack) => ({ value: rack.id, label: rack.name }))}
    />
    <Input label="Height (U)" class="w-16" name="heightUnits" inputmode="numeric" defaultValue="1" />
  {/if}
  <Button look="strong">Apply</Button>
  <Button class="ml-auto" type="button" onclick={done}>Clear selection</Button>
  {#if refusal !== null}<p class="text-crit w-full" role="alert">{refusal}</p>{/if}
</Form>
