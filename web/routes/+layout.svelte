<script lang="ts">
  import '$lib/app.css'
  import { onMount } from 'svelte'
  import FailedRequest from '$lib/components/shell/FailedRequest.svelte'
  import type { LayoutProps } from './$types'

  let { children }: LayoutProps = $props()

  // From here on the page's own script answers; before it, a form has only what the browser does by itself.
  onMount(() => {
    document.documentElement.dataset['hydrated'] = ''
  })
</script>

{@render children()}
<FailedRequest />
