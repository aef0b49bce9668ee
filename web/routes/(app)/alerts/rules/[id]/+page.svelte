<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import RuleEditor from '$lib/components/rules/RuleEditor.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const kept = $derived(data.kept!)
</script>

<svelte:head><title>{kept.name} · {data.shell.site.name}</title></svelte:head>

<h1>
  {kept.name}.
  <span class="text-ink-2 font-[450]">
    {kept.isDefault
      ? 'It came along with Restless Rack and stays as it is; saved from here, a rule of your own takes its place.'
      : `Made by ${kept.createdBy ?? 'somebody'}; deleted, what it took the place of is back.`}
    {kept.isOn ? '' : 'It is off.'}
  </span>
</h1>
<AlertTabs />
{#if data.mayAdminister}
  <div class="flex gap-2">
    <Form action="?/turn">
      <input type="hidden" name="isOn" value={kept.isOn ? 'no' : 'yes'} />
      <Button>{kept.isOn ? 'Switch off' : 'Switch on'}</Button>
    </Form>
    {#if !kept.isDefault}
      <Form action="?/remove"><Button>Delete</Button></Form>
    {/if}
  </div>
{/if}
{#key kept.id}
  <RuleEditor
    fields={form?.fields ?? data.fields}
    options={data.options}
    insteadOf={kept.id}
    mayChange={data.mayAdminister}
    isShipped={kept.isDefault}
    message={form?.message}
    problems={form?.problems}
    timeZone={data.shell.site.timeZone}
    save="?/save"
  />
{/key}
