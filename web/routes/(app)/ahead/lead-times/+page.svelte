<script lang="ts">
  import { TOPICS } from '#core/forecast'
  import Button from '$lib/components/ui/Button.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import EmptyState from '$lib/components/ui/EmptyState.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  let of = $state('all')
  let tag = $state('')
  let gearId = $state('')
  const whom = ({ tag: tagged, gear }: (typeof data.leadTimes)[number]): string =>
    gear ?? (tagged === null ? 'everything' : `with the tag ${tagged}`)
</script>

<svelte:head><title>Lead times · Ahead · {data.shell.site.name}</title></svelte:head>

<nav aria-label="Above"><Link class="text-ink-2 text-xs" href="/ahead">Ahead</Link></nav>
<h1>How long it takes from an order until it is there.</h1>

<Panel
  title="Lead times"
  id="lead-times"
  note="one gear's own before that of a tag, the longest of its tags, before that of all"
>
  {#if data.leadTimes.length === 0}
    <EmptyState
      text="As shipped: space and wear 14 days, inodes 7, fuel 5, batteries 42, hosts and cooling 60, feeds 90. Anything else is entered here."
    />
  {:else}
    <Table>
      <thead
        ><tr><th>What</th><th>Of</th><th class="text-right">Days</th><th>Entered by</th><th></th></tr></thead
      >
      <tbody>
        {#each data.leadTimes as each (each.id)}
          <tr data-testid="lead-time">
            <td>{each.topic}</td>
            <td>{whom(each)}</td>
            <td class="text-right">{each.days}</td>
            <td class="text-ink-2">{each.by}</td>
            <td class="text-right"
              >{#if data.mayAdminister}<Form action="?/delete"
                  ><input type="hidden" name="id" value={each.id} /><Button look="link">Delete</Button></Form
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </Table>
  {/if}
</Panel>

{#if data.mayAdminister}
  <Panel title="Set lead time" id="set">
    {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
    <Form action="?/add" class="flex flex-wrap items-end gap-3">
      <Select label="What" name="topic" options={TOPICS.map((topic) => ({ value: topic, label: topic }))} />
      <Select
        label="Of"
        name="of"
        bind:value={of}
        options={[
          { value: 'all', label: 'everything' },
          { value: 'tag', label: 'gear with a tag' },
          { value: 'gear', label: 'one gear' },
        ]}
      />
      {#if of === 'tag'}
        <Combobox
          label="Tag"
          name="tag"
          bind:value={tag}
          options={data.tags.map((name) => ({ value: name, label: name }))}
        />
      {:else if of === 'gear'}
        <Combobox label="Gear" name="gearId" bind:value={gearId} options={data.gear} />
      {/if}
      <Input label="Days" name="days" class="w-20" inputmode="numeric" required />
      <Button look="strong">Save lead time</Button>
    </Form>
  </Panel>
{/if}
