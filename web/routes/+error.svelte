<script lang="ts">
  import { page } from '$app/state'
  import Door from '$lib/components/Door.svelte'
</script>

<Door title={page.status === 404 ? 'Nothing here' : 'Not now'}>
  <p>{page.error?.message}</p>
  <p class="mt-3"><a class="link" href="/">Back to Watch</a></p>
</Door>
