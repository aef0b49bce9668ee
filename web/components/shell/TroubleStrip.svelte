<script lang="ts">
  import { afterNavigate } from '$app/navigation'
  import { trouble } from '$lib/client/trouble.svelte'

  afterNavigate(() => trouble.forget())
</script>

{#if trouble.message !== null}
  <div
    class="bg-sheet border-crit fixed inset-x-0 bottom-6 z-40 mx-auto flex w-fit max-w-[min(44rem,90vw)] items-center gap-4 border-l-4 px-4 py-3 shadow-lg"
    role="alert"
    data-testid="trouble"
  >
    <p>{trouble.message}</p>
    <button class="btn" onclick={() => trouble.forget()}>Close</button>
  </div>
{/if}
