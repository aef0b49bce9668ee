<script lang="ts">
  import Panel from './Panel.svelte'
  import type { Snippet } from 'svelte'

  let { title, children }: { title: string; children: Snippet } = $props()
</script>

<svelte:head><title>{title} · Restless Rack</title></svelte:head>

<main class="grid min-h-screen place-items-center p-6">
  <div class="w-90">
    <p class="mb-4 flex items-center gap-2 text-[15px] font-extrabold">
      <img src="/mark.svg" alt="" width="22" height="22" /> Restless Rack
    </p>
    <Panel>
      <h1 class="mb-3">{title}</h1>
      {@render children()}
    </Panel>
  </div>
</main>
