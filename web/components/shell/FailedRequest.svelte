<script lang="ts">
  import Button from '../ui/Button.svelte'
  import { afterNavigate } from '$app/navigation'
  import { failedRequest } from '$lib/client/failedRequest.svelte'

  afterNavigate(() => failedRequest.forget())
</script>

{#if failedRequest.message !== null}
  <div
    class="bg-sheet border-crit fixed inset-x-0 bottom-6 z-40 mx-auto flex w-fit max-w-[min(44rem,90vw)] items-center gap-4 border-l-4 px-4 py-3 shadow-lg"
    role="alert"
    data-testid="failure"
  >
    <p>{failedRequest.message}</p>
    <Button onclick={() => failedRequest.forget()}>Close</Button>
  </div>
{/if}
