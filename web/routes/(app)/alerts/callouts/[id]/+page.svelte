<script lang="ts">
  import CallOutScreen from '$lib/components/callouts/CallOutScreen.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
</script>

<CallOutScreen
  form={data.form}
  places={data.places}
  dry={data.dry}
  message={form?.message ?? null}
  site={data.shell.site.name}
/>
