<script lang="ts">
  import Confirm from '$lib/components/ui/Confirm.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import { GEAR_KINDS } from '#core/catalogue'
  import Fold from '$lib/components/ui/Fold.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import { listNames } from '#core/rules'
  import { keptWords } from '$lib/components/services/keptWords'
  import KeptDays from '$lib/components/services/KeptDays.svelte'
  import GroupFields from '$lib/components/gear/GroupFields.svelte'
  import PathDrawing from '$lib/components/links/PathDrawing.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const WORDS = {
    critical: 'does not work',
    warning: 'works, with something wrong',
    noData: 'cannot be told',
    quiet: 'works',
    well: 'works',
  } as const
</script>

<svelte:head><title>{data.group.name} · {data.shell.site.name}</title></svelte:head>

<div>
  <h1 class="flex items-center gap-2">
    <Glyph state={data.state} />
    <span>{data.group.name} <span class="text-ink-2 font-[450]">— {WORDS[data.state]}</span></span>
  </h1>
  {#if data.plainly !== null}<p class="mt-0.5" data-testid="plainly">{data.plainly}</p>{/if}
  <p class="text-ink-2 mt-0.5 text-xs">
    <Link href="/gear/groups">Groups</Link> · {data.sentence}
    {data.group.note}
    {#if data.within.length > 0}
      Part of {#each data.within as { id, name }, index (id)}{index > 0 ? ', ' : ''}<Link
          href="/gear/groups/{id}">{name}</Link
        >{/each}.
    {/if}
  </p>
</div>

{#if data.group.isService}
  <Panel
    title="Promise"
    id="promise"
    note={data.group.owner === '' ? 'nobody is named as its owner' : `owner: ${data.group.owner}`}
  >
    {#if data.kept === null}
      <p class="text-ink-2">
        Not all of its gear tells whether it works, so nothing is said of how it did in the last 30 days.
      </p>
    {:else}
      <p class="mb-1">{keptWords(data.kept, data.isPromised)}</p>
      <KeptDays days={data.kept.days} timeZone={data.shell.site.timeZone} />
      <p class="text-ink-2 mt-1 text-xs">
        {data.kept.hours} ·
        <Link href="/past/availability?whereKind=group&whereValue={data.group.id}"
          >Outages and their causes</Link
        >
      </p>
    {/if}
  </Panel>
{/if}

<Panel title="Dependencies" id="hangs">
  {#each data.hangs.sentences as sentence (sentence)}<p class="mb-1">{sentence}</p>{/each}
  <PathDrawing path={data.hangs.path} label="What {data.group.name} hangs on" />
</Panel>

{#if data.groups.length > 0}
  <Panel title="Groups in it" note={data.groups.length} id="groups">
    <ul>
      {#each data.groups as inner (inner.id)}
        <li class="border-rule-2 border-t first:border-t-0" data-row>
          <a
            href="/gear/groups/{inner.id}"
            class="grid grid-cols-[22px_220px_minmax(0,1fr)] items-center py-1.5 hover:underline"
          >
            <Glyph state={inner.state} /><b class="font-[640]">{inner.name}</b>
            <span>{inner.sentence}</span>
          </a>
        </li>
      {/each}
    </ul>
  </Panel>
{/if}

<Panel title="Members" note={data.members.length} id="members">
  <ul class="grid grid-cols-3 gap-x-6">
    {#each data.members as member (member.id)}
      <li class="border-rule-2 border-t" data-row>
        <a
          href="/gear/{member.id}"
          class="grid grid-cols-[22px_minmax(0,1fr)_auto] items-center py-1.5 hover:underline"
        >
          <Glyph state={member.state} /><b class="font-[640]">{member.name}</b>
          <span class="text-ink-2 text-xs">{GEAR_KINDS[member.kind].label.toLowerCase()}</span>
        </a>
      </li>
    {:else}
      <li class="text-ink-2 text-xs">
        {data.groups.length > 0 ? 'No gear of its own.' : 'No members yet. Add them below.'}
      </li>
    {/each}
  </ul>
</Panel>

{#if data.mayAdminister}
  {#key data.group.id}
    <Fold isPanel titleClass="font-[640]" opens={form?.message != null}>
      {#snippet title()}Edit group{/snippet}
      {#if form?.message != null}<p class="text-crit mt-2" role="alert">{form.message}</p>{/if}
      <Form
        action="?/change"
        submit={() =>
          ({ update }) =>
            update({ reset: false })}
        class="mt-2 flex flex-wrap items-end gap-2"
      >
        <GroupFields group={data.group} />
        <Button look="strong">Save</Button>
      </Form>
      <Form action="?/remove" class="mt-2">
        <Confirm
          label="Delete group"
          question="Delete the group {data.group.name}?"
          consequence={data.within.length === 0
            ? 'Its members stay.'
            : `Its members stay. It is taken out of ${listNames(data.within.map(({ name }) => name))}.`}
          act="Delete group"
        />
      </Form>
    </Fold>
  {/key}
{/if}
