<script lang="ts">
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import RuleEditor from '$lib/components/rules/RuleEditor.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
</script>

<svelte:head><title>New rule · {data.shell.site.name}</title></svelte:head>

<h1>
  {data.like === null ? 'A rule of your own.' : `A rule of your own, made like “${data.like}”.`}
  <span class="text-ink-2 font-[450]"
    >Where it is more specific than another that says the same, it takes its place.</span
  >
</h1>
<AlertTabs />
<RuleEditor
  fields={form?.fields ?? data.fields}
  options={data.options}
  insteadOf={null}
  mayChange
  message={form?.message}
  problems={form?.problems}
  timeZone={data.shell.site.timeZone}
  save="?/save"
/>
