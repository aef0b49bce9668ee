<script lang="ts" module>
  import type { ClassValue, HTMLAnchorAttributes, HTMLButtonAttributes } from 'svelte/elements'

  export type Look = 'plain' | 'strong' | 'danger' | 'link' | 'bare'
  const BOX =
    'rounded-[2px] border px-2.5 py-[3px] text-xs font-[550] whitespace-nowrap not-disabled:hover:bg-accent-soft'
  const LOOKS: Readonly<Record<Look, string>> = {
    plain: `${BOX} border-rule bg-sheet text-ink`,
    strong: `${BOX} border-ink bg-sheet text-ink`,
    danger: `${BOX} border-crit bg-sheet text-crit`,
    link: 'decoration-rule text-left underline underline-offset-2 hover:decoration-current',
    bare: '',
  }
</script>

<script lang="ts">
  import type { Snippet } from 'svelte'

  /** What does something; with an `href`, what leads somewhere. In a form it sends it, unless its type says otherwise. */
  let {
    look = 'plain',
    class: looks,
    href,
    children,
    element = $bindable(),
    ...rest
  }: Omit<HTMLButtonAttributes & HTMLAnchorAttributes, 'class' | 'type'> & {
    look?: Look
    class?: ClassValue
    type?: HTMLButtonAttributes['type']
    children: Snippet
    element?: HTMLElement | undefined
  } = $props()
</script>

{#if href === undefined || href === null}
  <button {...rest as HTMLButtonAttributes} bind:this={element} class={[LOOKS[look], looks]}
    >{@render children()}</button
  >
{:else}
  <a {...rest as HTMLAnchorAttributes} {href} bind:this={element} class={['inline-block', LOOKS[look], looks]}
    >{@render children()}</a
  >
{/if}
