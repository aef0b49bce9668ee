<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Fold from '$lib/components/ui/Fold.svelte'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import GroupFields from '$lib/components/gear/GroupFields.svelte'
  import { GEAR_STATES } from '#core/gear'
  import { listNames } from '#core/rules'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const sorted = $derived(
    data.groups.toSorted((a, b) => GEAR_STATES.indexOf(a.state) - GEAR_STATES.indexOf(b.state)),
  )
  const sentence = $derived.by(() => {
    if (data.groups.length === 0) return 'No group is made yet.'
    const names = (state: string): string[] =>
      data.groups.filter((group) => group.state === state).map(({ name }) => name)
    const said = [
      ...(names('critical').length > 0
        ? [`${listNames(names('critical'))} ${names('critical').length === 1 ? 'does' : 'do'} not work`]
        : []),
      ...(names('noData').length > 0 ? [`of ${listNames(names('noData'))} it cannot be said`] : []),
      ...(names('warning').length > 0
        ? [
            `${listNames(names('warning'))} ${names('warning').length === 1 ? 'works' : 'work'}, with a member that does not`,
          ]
        : []),
    ]
    return said.length === 0 ? `All ${data.groups.length} groups work.` : `${said.join('; ')}.`
  })
</script>

<svelte:head><title>Groups · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>
<GearTabs />
<Panel aria-label="Groups">
  <ul>
    {#each sorted as group (group.id)}
      <li class="border-rule-2 border-t first:border-t-0" data-row data-testid="group-row">
        <a
          href="/gear/groups/{group.id}"
          class="grid grid-cols-[24px_220px_minmax(0,1fr)] items-center gap-2 py-2 hover:underline"
        >
          <Glyph state={group.state} />
          <b class="font-[640]"
            >{group.name}{#if group.isService}<span class="text-ink-2 ml-1.5 text-xs font-[450]">service</span
              >{/if}</b
          >
          <span
            >{group.sentence}
            {#if group.bad.length > 0}<span class="text-ink-2 text-xs">{listNames(group.bad)}.</span>{/if}
            <span class="text-ink-2 text-xs">{group.note}</span></span
          >
        </a>
      </li>
    {:else}
      <li class="text-ink-2 text-xs">
        A group is an application, or a system such as the cameras: several gear that together do one thing,
        with one state.
      </li>
    {/each}
  </ul>
</Panel>
{#if data.mayAdminister}
  <Fold isPanel titleClass="font-[640]" opens={form?.message != null}>
    {#snippet title()}Add group{/snippet}
    {#if form?.message != null}<p class="text-crit mt-2" role="alert">{form.message}</p>{/if}
    <Form
      action="?/add"
      submit={() =>
        ({ update }) =>
          update({ reset: false })}
      class="mt-2 flex flex-wrap items-end gap-2"
    >
      <GroupFields />
      <Button look="strong">Add group</Button>
    </Form>
  </Fold>
{/if}
