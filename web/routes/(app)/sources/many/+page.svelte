<script lang="ts">
  import { enhance } from '$lib/client/forms'
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

<nav aria-label="Above"><a class="link muted" href="/sources">Sources</a></nav>
<h1 aria-live="polite">{sentence}</h1>

<div class="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-4">
  <section class="panel" aria-labelledby="csv">
    <h2 class="panel-title" id="csv">Lines</h2>
    <form
      method="POST"
      enctype="multipart/form-data"
      use:enhance={() =>
        ({ update }) =>
          update({ reset: false })}
    >
      <textarea
        class="field w-full font-mono text-[11px]"
        name="text"
        rows="14"
        aria-label="Lines of CSV, the first with the names of the columns"
        placeholder={EXAMPLE}>{form?.text ?? ''}</textarea
      >
      <div class="mt-2 flex flex-wrap items-center gap-2">
        <label
          ><input type="checkbox" name="change" value="yes" checked={form?.mayChange ?? false} /> a line with the
          name of a source that is there changes it</label
        >
        <label class="muted">or a file <input type="file" name="file" accept=".csv,text/csv" /></label>
        <button class="btn btn-strong">Connect these</button>
        {#if form != null && form.good.length > 0}
          <button class="btn" name="keep" value="good"
            >Keep the {form.good.length} good, leave the others</button
          >
        {/if}
      </div>
    </form>
    {#if form != null}
      <table class="ledger mt-3">
        <thead><tr><th class="w-14">Line</th><th>What is wrong</th></tr></thead>
        <tbody>
          {#each form.bad as { line, why } (line)}
            <tr data-testid="bad-line"><td>{line}</td><td class="text-crit">{why}</td></tr>
          {/each}
        </tbody>
      </table>
    {/if}
  </section>
  <section class="panel" aria-labelledby="columns">
    <h2 class="panel-title" id="columns">Columns</h2>
    <p>The first line names them, in any order. Needed are name, protocol and address.</p>
    <p class="muted mt-1 font-mono text-[11px] break-words">{data.columns.join(', ')}</p>
    <dl class="mt-2 grid grid-cols-[80px_minmax(0,1fr)] gap-x-2 gap-y-1">
      <dt class="muted">protocol</dt>
      <dd>redfish, snmp, openmetrics, modbus or reach</dd>
      <dt class="muted">credential</dt>
      <dd>
        the name of one that is kept{data.credentials.length === 0
          ? '; none is yet'
          : `: ${data.credentials.join('; ')}`}
      </dd>
      <dt class="muted">mapping</dt>
      <dd>
        of openmetrics and modbus, the name of one that is kept{data.mappings.length === 0
          ? ''
          : `: ${data.mappings.join('; ')}`}
      </dd>
      <dt class="muted">interval_s</dt>
      <dd>seconds, the usual ones of the protocol if empty</dd>
    </dl>
    <p class="muted mt-2">
      What is kept is asked at once; what does not answer says why under Sources. <a
        class="link"
        href="/sources/csv"
        download>All sources as such a file</a
      >.
    </p>
  </section>
</div>
