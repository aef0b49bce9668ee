<script lang="ts">
  import type { LinkKind } from '#core/catalogue'
  import { enhance } from '$lib/client/forms'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import Fold from '../ui/Fold.svelte'

  /** Links of a gear: who tells of each, and drawing what no protocol tells of. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['links']>> = $props()
  const links = $derived(view.links)
  const message = $derived(frame.messageOf('linkMessage'))

  /** What the field proposes; asked for when somebody comes to it. */
  let names = $state.raw<readonly string[]>([])
  async function askNames(): Promise<void> {
    if (names.length > 0) return
    const answer = await fetch('/gear/names').catch(() => null)
    if (answer?.ok === true) names = (await answer.json()) as string[]
  }

  const WORDS: Record<LinkKind, readonly [out: string, back: string]> = {
    contains: ['contains', 'is contained in'],
    hosts: ['hosts', 'runs on'],
    'stores-on': ['stores on', 'stores for'],
    'fed-by': ['is fed by', 'feeds'],
    'cooled-by': ['is cooled by', 'cools'],
    'wired-to': ['is wired to', 'is wired to'],
  }
</script>

<Fold class="panel" titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Links <span class="muted">{links.length}</span>{/snippet}
  {#if message !== null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
  <ul class="mt-2 grid gap-1">
    {#each links as link (link.id)}
      <li class="border-rule-2 flex items-center gap-2 border-t pt-1">
        <span>
          {WORDS[link.kind][link.isOutgoing ? 0 : 1]}
          <a class="link font-semibold" href="/gear/{link.otherId}">{link.otherName}</a>
          {#if link.ownPart !== null || link.otherPart !== null}
            <span class="muted"
              >({[link.ownPart, link.otherPart].filter((part) => part !== null).join(' – ')})</span
            >
          {/if}
        </span>
        <span class="muted ml-auto">
          {link.source !== null ? `told by ${link.source}` : link.who !== null ? `drawn by ${link.who}` : ''}
        </span>
        {#if link.source === null}
          <form method="POST" action="?/unlink" use:enhance>
            <input type="hidden" name="link" value={link.id} />
            <button class="btn">Erase</button>
          </form>
        {/if}
      </li>
    {/each}
  </ul>
  <form method="POST" action="?/link" use:enhance class="mt-3 flex flex-wrap items-end gap-2">
    <label class="grid gap-0.5">
      This
      <select class="field" name="way">
        <option value="from">needs or holds the other</option>
        <option value="to">is needed or held by the other</option>
      </select>
    </label>
    <label class="grid gap-0.5">
      as
      <select class="field" name="kind">
        {#each Object.entries(WORDS) as [kind, [out]] (kind)}<option value={kind}>{out}</option>{/each}
      </select>
    </label>
    <label class="grid gap-0.5">
      Other gear
      <input
        class="field w-52"
        name="other"
        list="gear-names"
        required
        autocomplete="off"
        onfocus={() => void askNames()}
      />
    </label>
    <datalist id="gear-names">
      {#each names as name, index (index)}<option value={name}></option>{/each}
    </datalist>
    <button class="btn btn-strong">Draw it</button>
  </form>
</Fold>
