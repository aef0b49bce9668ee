<script lang="ts">
  import type { Snippet } from 'svelte'
  import type { ClassValue, HTMLAnchorAttributes } from 'svelte/elements'
  import { LINK } from './looks'

  let {
    class: looks,
    children,
    ...rest
  }: Omit<HTMLAnchorAttributes, 'class'> & { class?: ClassValue; children: Snippet } = $props()
</script>

<a {...rest} class={[LINK, looks]}>{@render children()}</a>
