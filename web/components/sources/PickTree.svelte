<script lang="ts">
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Input from '../ui/Input.svelte'
  import Fold from '../ui/Fold.svelte'
  import type { GearTree, ItemView } from '$lib/server/sources/itemTree'

  /**
   * Gear and parts of a source to pick from. `left` holds the keys of what is left out.
   * A gear that is left out takes its parts along.
   */
  let {
    tree,
    left,
    onLeft,
  }: {
    tree: readonly GearTree[]
    left: ReadonlySet<string>
    onLeft: (left: Set<string>) => void
  } = $props()

  let filter = $state('')
  const words = $derived(filter.trim().toLowerCase())

  const keyOf = ({ gearKey, partKey }: ItemView): string => `${gearKey}\n${partKey ?? ''}`
  const isShown = (item: ItemView): boolean =>
    words === '' || `${item.name} ${item.kind} ${item.note ?? ''}`.toLowerCase().includes(words)
  const plain = (items: readonly ItemView[]): ItemView[] => items.filter(isShown)

  function set(items: readonly ItemView[], isPicked: boolean): void {
    const keys = items.map(keyOf)
    onLeft(new Set(isPicked ? [...left].filter((key) => !keys.includes(key)) : [...left, ...keys]))
  }
  const picked = (items: readonly ItemView[]): number => items.filter((item) => !left.has(keyOf(item))).length
</script>

{#snippet row(item: ItemView, isOff: boolean)}
  <li
    class="border-rule-2 grid grid-cols-[20px_minmax(0,1fr)_minmax(0,auto)] items-baseline gap-x-2 border-t py-0.5"
    data-testid="item"
  >
    <Checkbox
      aria-label="Watch {item.name}"
      defaultChecked={!left.has(keyOf(item))}
      disabled={isOff}
      onchange={(checked) => set([item], checked)}
    />
    <span class="min-w-0 break-words"
      >{item.name}
      {#if item.note !== null}<span class="text-ink-2 text-xs">· {item.note}</span>{/if}</span
    >
    <span class="text-ink-2 text-right text-xs"
      >{item.values.map(({ label, text }) => `${label} ${text}`).join(' · ')}</span
    >
  </li>
{/snippet}

<div class="mb-2">
  <Input label="Filter" class="w-56" placeholder="Name, kind, reason" bind:value={filter} />
</div>
{#each tree as { item, detail, groups } (item.gearKey)}
  {@const isOff = left.has(keyOf(item))}
  <section class="border-rule mt-2 border-t-2 pt-1.5" data-testid="found-gear">
    <div class="flex items-baseline gap-2">
      <Checkbox
        aria-label="Watch {item.name}"
        defaultChecked={!isOff}
        onchange={(checked) => set([item], checked)}
      />
      <h3 class="font-[640]">{item.name}</h3>
      <span class="text-ink-2 text-xs">{detail}{item.note === null ? '' : ` · ${item.note}`}</span>
    </div>
    <p class="text-ink-2 ml-6 text-xs">
      {item.values.map(({ label, text }) => `${label} ${text}`).join(' · ')}
    </p>
    <div class="ml-6">
      {#each groups as { kind, label, parts } (kind)}
        {@const shown = plain(parts)}
        {#if shown.length > 0}
          <Fold
            class="border-rule-2 border-t py-1"
            opens={words !== '' || parts.length <= 6 || parts.some((part) => part.note !== null)}
          >
            {#snippet title()}
              {label}
              <span class="text-ink-2 text-xs">{picked(parts)} of {parts.length} picked</span>
            {/snippet}
            {#if shown.length > 1}
              <Button
                type="button"
                class="my-1 ml-4"
                disabled={isOff}
                onclick={() => set(shown, picked(shown) < shown.length)}
                >{picked(shown) < shown.length ? 'Pick all' : 'Leave all'}</Button
              >
            {/if}
            <ul class="ml-4">
              {#each shown as part (part.partKey)}{@render row(part, isOff)}{/each}
            </ul>
          </Fold>
        {/if}
      {/each}
    </div>
  </section>
{/each}
