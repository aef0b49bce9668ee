<script lang="ts">
  import '$lib/app.css'
  import type { LayoutProps } from './$types'

  let { children }: LayoutProps = $props()
</script>

{@render children()}
