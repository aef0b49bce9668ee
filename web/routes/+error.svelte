<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import { page } from '$app/state'
  import { onMount } from 'svelte'
  import { isReady } from '$lib/client/requests'
  import Door from '$lib/components/ui/Door.svelte'

  // What was asked for is shown once it can be.
  onMount(() => {
    const timer = setInterval(async () => {
      if (page.error?.isAway === true && (await isReady())) location.reload()
    }, 3000)
    return () => clearInterval(timer)
  })
</script>

<Door title={page.status === 404 ? 'Nothing here' : 'Not now'}>
  <p>{page.error?.message}</p>
  <p class="mt-3"><Link href="/">Back to Watch</Link></p>
</Door>
