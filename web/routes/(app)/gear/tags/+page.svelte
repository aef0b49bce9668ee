<script lang="ts">
  import { GEAR_KINDS } from '#core/catalogue'
  import { enhance } from '$lib/client/forms'
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
<section class="panel" aria-label="Tags by rule">
  <h2 class="panel-title">
    Given by rule <span>gear that comes later is covered with nothing more to do</span>
  </h2>
  {#if form?.message != null}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
  <ul>
    {#each data.rules as rule (rule.id)}
      <li class="border-rule-2 flex items-center gap-3 border-t py-1.5" data-row>
        <a class="border-rule border px-1.5 hover:underline" href="/gear?q={encodeURIComponent(rule.tag)}"
          >{rule.tag}</a
        >
        <span>{rule.words}</span>
        <span class="muted ml-auto">{rule.count} now</span>
        {#if data.mayAdminister}
          <form method="POST" action="?/remove" use:enhance>
            <input type="hidden" name="id" value={rule.id} />
            <button class="btn">Take away</button>
          </form>
        {/if}
      </li>
    {:else}
      <li class="muted">Tags that people gave stand on each gear; here they can be given to all that fit.</li>
    {/each}
  </ul>
  {#if data.mayAdminister}
    <form
      method="POST"
      action="?/add"
      use:enhance
      class="border-rule-2 mt-3 flex flex-wrap items-end gap-2 border-t pt-3"
    >
      <label class="grid gap-0.5">Tag <input class="field w-32" name="tag" required maxlength="40" /></label>
      <label class="grid gap-0.5"
        >for what is called <input
          class="field w-44"
          name="name"
          maxlength="64"
          placeholder="tide-model-*"
        /></label
      >
      <label class="grid gap-0.5"
        >is a <select class="field" name="kind"
          ><option value="">anything</option
          >{#each Object.entries(GEAR_KINDS) as [key, { label }] (key)}<option value={key}>{label}</option
            >{/each}</select
        ></label
      >
      <label class="grid gap-0.5"
        >in room <select class="field" name="roomId"
          ><option value="">any</option>{#each data.rooms as room (room.id)}<option value={room.id}
              >{room.name}</option
            >{/each}</select
        ></label
      >
      <label class="grid gap-0.5"
        >in rack <select class="field" name="rackId"
          ><option value="">any</option>{#each data.racks as rack (rack.id)}<option value={rack.id}
              >{rack.name}</option
            >{/each}</select
        ></label
      >
      <label class="grid gap-0.5"
        >seen by <select class="field w-44" name="sourceId"
          ><option value="">any</option>{#each data.sources as source (source.id)}<option value={source.id}
              >{source.name}</option
            >{/each}</select
        ></label
      >
      <button class="btn btn-strong">Add rule</button>
    </form>
  {/if}
</section>
