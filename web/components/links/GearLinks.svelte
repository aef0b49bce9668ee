<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Link from '../ui/Link.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import type { LinkKind } from '#core/catalogue'
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

<Fold isPanel titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Links <span class="text-ink-2 text-xs">{links.length}</span>{/snippet}
  {#if message !== null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
  <ul class="mt-2 grid gap-1">
    {#each links as link (link.id)}
      <li class="border-rule-2 flex items-center gap-2 border-t pt-1">
        <span>
          {WORDS[link.kind][link.isOutgoing ? 0 : 1]}
          <Link class="font-semibold" href="/gear/{link.otherId}">{link.otherName}</Link>
          {#if link.ownPart !== null || link.otherPart !== null}
            <span class="text-ink-2 text-xs"
              >({[link.ownPart, link.otherPart].filter((part) => part !== null).join(' – ')})</span
            >
          {/if}
        </span>
        <span class="text-ink-2 ml-auto text-xs">
          {link.source !== null ? `told by ${link.source}` : link.who !== null ? `drawn by ${link.who}` : ''}
        </span>
        {#if link.source === null}
          <Form action="?/unlink">
            <input type="hidden" name="link" value={link.id} />
            <Button>Remove</Button>
          </Form>
        {/if}
      </li>
    {/each}
  </ul>
  <Form action="?/link" class="mt-3 flex flex-wrap items-end gap-2">
    <Select
      label="This"
      name="way"
      options={[
        { value: 'from', label: 'needs or holds the other' },
        { value: 'to', label: 'is needed or held by the other' },
      ]}
    />
    <Select
      label="Link"
      name="kind"
      options={Object.entries(WORDS).map(([kind, [out]]) => ({ value: kind, label: out }))}
    />
    <Input
      label="Other gear"
      class="w-52"
      name="other"
      list="gear-names"
      required
      autocomplete="off"
      onfocus={() => void askNames()}
    />
    <datalist id="gear-names">
      {#each names as name, index (index)}<option value={name}></option>{/each}
    </datalist>
    <Button look="strong">Add link</Button>
  </Form>
</Fold>
