<script lang="ts">
  import type { Snippet } from 'svelte'
  import type { ClassValue } from 'svelte/elements'

  /** A sentence that must not be missed: what was done, what is wrong. */
  let {
    kind = 'done',
    class: looks,
    children,
  }: { kind?: 'done' | 'problem' | 'caution'; class?: ClassValue; children: Snippet } = $props()
  const LOOKS = { done: 'text-ink', problem: 'text-crit', caution: 'text-warn' } as const
</script>

<p class={[LOOKS[kind], looks]} role={kind === 'done' ? 'status' : 'alert'}>{@render children()}</p>
