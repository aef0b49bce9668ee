<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { GEAR_KINDS } from '#core/catalogue'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
</script>

<svelte:head><title>Tags by rule · {data.shell.site.name}</title></svelte:head>

<h1>
  {data.tags.length === 0
    ? 'No gear has a tag yet.'
    : `${data.tags.length} tag${data.tags.length === 1 ? '' : 's'}: ${data.tags.map(({ tag, count }) => `${tag} on ${count}`).join(', ')}.`}
</h1>
<GearTabs />
<Panel
  title="Rules for tags"
  note="gear that comes later is covered with nothing more to do"
  aria-label="Tags by rule"
>
  {#if form?.message != null}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
  <ul>
    {#each data.rules as rule (rule.id)}
      <li class="border-rule-2 flex items-center gap-3 border-t py-1.5" data-row>
        <a class="border-rule border px-1.5 hover:underline" href="/gear?q={encodeURIComponent(rule.tag)}"
          >{rule.tag}</a
        >
        <span>{rule.words}</span>
        <span class="text-ink-2 ml-auto text-xs">{rule.count} now</span>
        {#if data.mayAdminister}
          <Form action="?/remove">
            <input type="hidden" name="id" value={rule.id} />
            <Button>Remove</Button>
          </Form>
        {/if}
      </li>
    {:else}
      <li class="text-ink-2 text-xs">
        Tags that people gave stand on each gear; here they can be given to all that fit.
      </li>
    {/each}
  </ul>
  {#if data.mayAdminister}
    <Form action="?/add" class="border-rule-2 mt-3 flex flex-wrap items-end gap-2 border-t pt-3">
      <Input label="Tag" class="w-32" name="tag" required maxlength="40" />
      <Input label="Name pattern" class="w-44" name="name" maxlength="64" placeholder="tide-model-*" />
      <Select
        label="Kind"
        name="kind"
        options={[
          { value: '', label: 'anything' },
          ...Object.entries(GEAR_KINDS).map(([key, { label }]) => ({ value: key, label: label })),
        ]}
      />
      <Select
        label="Room"
        name="roomId"
        options={[
          { value: '', label: 'any' },
          ...data.rooms.map((room) => ({ value: room.id, label: room.name })),
        ]}
      />
      <Combobox
        label="Rack"
        name="rackId"
        options={[
          { value: '', label: 'any' },
          ...data.racks.map((rack) => ({ value: rack.id, label: rack.name })),
        ]}
      />
      <Combobox
        label="Seen by"
        class="w-44"
        name="sourceId"
        options={[
          { value: '', label: 'any' },
          ...data.sources.map((source) => ({ value: source.id, label: source.name })),
        ]}
      />
      <Button look="strong">Add rule</Button>
    </Form>
  {/if}
</Panel>
