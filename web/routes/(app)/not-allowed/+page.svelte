<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
</script>

<svelte:head><title>Not opened · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">This needs the right to {data.needs}; your account may {data.may}.</h1>
<p>
  Whoever administers this installation can give you the right, or do it for you. What you tried is in the
  record. <Link href="/">To Watch</Link>
</p>
