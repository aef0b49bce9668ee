<script lang="ts">
  import type { ReadingView } from '#core/gear'

  let { own }: { own: readonly ReadingView[] } = $props()
</script>

<dl class="grid max-w-165 grid-cols-3 gap-x-6 gap-y-2">
  {#each own as reading (reading.seriesId)}
    <div class="border-rule-2 border-t pt-1.5">
      <dt class="text-ink-2 text-xs">{reading.label}</dt>
      <dd class="text-[17px] font-[640]" data-state={reading.state}>{reading.text}</dd>
    </div>
  {/each}
</dl>
