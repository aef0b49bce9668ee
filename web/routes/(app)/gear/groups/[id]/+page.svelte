<script lang="ts">
  import { GEAR_KINDS } from '#core/catalogue'
  import { enhance } from '$lib/client/forms'
  import Fold from '$lib/components/ui/Fold.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
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
  <p class="muted mt-0.5">
    <a class="link" href="/gear/groups">Groups</a> · {data.sentence}
    {data.group.note}
  </p>
</div>

<section class="panel" aria-labelledby="hangs">
  <h2 class="panel-title" id="hangs">How it hangs together</h2>
  {#each data.hangs.sentences as sentence (sentence)}<p class="mb-1">{sentence}</p>{/each}
  <PathDrawing path={data.hangs.path} label="What {data.group.name} hangs on" />
</section>

<section class="panel" aria-labelledby="members">
  <h2 class="panel-title" id="members">Members <span>{data.members.length}</span></h2>
  <ul class="grid grid-cols-3 gap-x-6">
    {#each data.members as member (member.id)}
      <li class="border-rule-2 border-t" data-row>
        <a
          href="/gear/{member.id}"
          class="grid grid-cols-[22px_minmax(0,1fr)_auto] items-center py-1.5 hover:underline"
        >
          <Glyph state={member.state} /><b class="font-[640]">{member.name}</b>
          <span class="muted">{GEAR_KINDS[member.kind].label.toLowerCase()}</span>
        </a>
      </li>
    {:else}
      <li class="muted">Nobody belongs to it yet.</li>
    {/each}
  </ul>
</section>

{#if data.mayAdminister}
  {#key data.group.id}
    <Fold class="panel" titleClass="font-[640]" opens={form?.message != null}>
      {#snippet title()}Change the group{/snippet}
      {#if form?.message != null}<p class="text-crit mt-2" role="alert">{form.message}</p>{/if}
      <form
        method="POST"
        action="?/change"
        use:enhance={() =>
          ({ update }) =>
            update({ reset: false })}
        class="mt-2 flex flex-wrap items-end gap-2"
      >
        <GroupFields group={data.group} />
        <button class="btn btn-strong">Keep</button>
      </form>
      <form method="POST" action="?/remove" use:enhance class="mt-2">
        <button
          class="btn"
          onclick={(event) => {
            if (!confirm(`Take the group ${data.group.name} away? Its members stay.`)) event.preventDefault()
          }}>Take it away</button
        >
      </form>
    </Fold>
  {/key}
{/if}
