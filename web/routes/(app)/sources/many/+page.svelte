<script lang="ts">
  import FileInput from '$lib/components/ui/FileInput.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import TextArea from '$lib/components/ui/TextArea.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const EXAMPLE = [
    'name,protocol,address,credential,version',
    'harbour-C card,snmp,192.0.2.31,harbour community,v2c',
    'petrel-09 controller,redfish,https://192.0.2.49,"controllers, read only",',
  ].join('\n')
  const lines = (count: number): string => `${count} ${count === 1 ? 'line' : 'lines'}`
  const sentence = $derived.by(() => {
    if (form == null) return 'Connect many at once, from CSV.'
    const wrong = `${lines(form.bad.length)} cannot be kept as ${form.bad.length === 1 ? 'it stands' : 'they stand'}`
    return form.good.length === 0 ? `${wrong}.` : `${wrong}; ${form.good.length} can.`
  })
</script>

<svelte:head><title>Many at once · {data.shell.site.name}</title></svelte:head>

<nav aria-label="Above"><Link class="text-ink-2 text-xs" href="/sources">Sources</Link></nav>
<h1 aria-live="polite">{sentence}</h1>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_330px]">
  <Panel title="Lines" id="csv">
    <Form
      enctype="multipart/form-data"
      submit={() =>
        ({ update }) =>
          update({ reset: false })}
    >
      <TextArea
        class="w-full font-mono text-[11px]"
        name="text"
        rows="14"
        aria-label="Lines of CSV, the first with the names of the columns"
        placeholder={EXAMPLE}
        defaultValue={form?.text ?? ''}
      />
      <div class="mt-2 flex flex-wrap items-center gap-2">
        <Checkbox
          label="Update sources that exist by name"
          name="change"
          value="yes"
          defaultChecked={form?.mayChange ?? false}
        />
        <FileInput aria-label="CSV file" name="file" accept=".csv,text/csv" />
        <Button look="strong">Connect all</Button>
        {#if form != null && form.good.length > 0}
          <Button name="keep" value="good">Save the {form.good.length} valid lines, skip the others</Button>
        {/if}
      </div>
    </Form>
    {#if form != null}
      <Table class="mt-3">
        <thead><tr><th class="w-14">Line</th><th>What is wrong</th></tr></thead>
        <tbody>
          {#each form.bad as { line, why } (line)}
            <tr data-testid="bad-line"><td>{line}</td><td class="text-crit">{why}</td></tr>
          {/each}
        </tbody>
      </Table>
    {/if}
  </Panel>
  <Panel title="Columns" id="columns">
    <p>The first line names them, in any order. Needed are name, protocol and address.</p>
    <p class="text-ink-2 mt-1 font-mono text-[11px] break-words">{data.columns.join(', ')}</p>
    <dl class="mt-2 grid grid-cols-[80px_minmax(0,1fr)] gap-x-2 gap-y-1">
      <dt class="text-ink-2 text-xs">protocol</dt>
      <dd>redfish, snmp, openmetrics, modbus or reach</dd>
      <dt class="text-ink-2 text-xs">credential</dt>
      <dd>
        the name of one that is kept{data.credentials.length === 0
          ? '; none is yet'
          : `: ${data.credentials.join('; ')}`}
      </dd>
      <dt class="text-ink-2 text-xs">mapping</dt>
      <dd>
        of openmetrics and modbus, the name of one that is kept{data.mappings.length === 0
          ? ''
          : `: ${data.mappings.join('; ')}`}
      </dd>
      <dt class="text-ink-2 text-xs">interval_s</dt>
      <dd>seconds, the usual ones of the protocol if empty</dd>
    </dl>
    <p class="text-ink-2 mt-2 text-xs">
      What is kept is asked at once; what does not answer says why under Sources. <Link
        href="/sources/csv"
        download>All sources as such a file</Link
      >.
    </p>
  </Panel>
</div>
