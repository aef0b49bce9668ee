<script lang="ts">
  import { Progress } from 'bits-ui'

  /** How far something is; without a share, that it is at work. */
  let { label, share = null }: { label: string; share?: number | null } = $props()
  const percent = $derived(share === null ? null : Math.round(Math.min(1, Math.max(0, share)) * 100))
</script>

<Progress.Root
  value={percent}
  max={100}
  aria-label={label}
  class="bg-rule-2 block h-1 w-full overflow-hidden"
>
  <div
    class={['bg-accent h-full', percent === null && 'w-2/5 motion-safe:animate-pulse']}
    {@attach (bar) => void (bar.style.width = percent === null ? '' : `${percent}%`)}
  ></div>
</Progress.Root>
