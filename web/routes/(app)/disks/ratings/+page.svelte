<script lang="ts">
  import { formatBytes } from '#core/units'
  import DisksTabs from '$lib/components/disks/DisksTabs.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import FileInput from '$lib/components/ui/FileInput.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import TextArea from '$lib/components/ui/TextArea.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const asked = $derived(data.models.filter(({ hasLife, ratedBytes }) => !hasLife && ratedBytes === null))
  const sentence = $derived(
    data.models.length === 0
      ? 'No model of a drive is known yet.'
      : asked.length === 0
        ? `Of all ${data.models.length} models it is known how long they last.`
        : `${asked.length} of ${data.models.length} models ${asked.length === 1 ? 'has' : 'have'} no word for their life, and no rating: how long they last is not known.`,
  )
  const csv = $derived(form !== null && 'csv' in form ? (form.csv ?? null) : null)
  const EXAMPLE = 'model,endurance,source\nAldermoor S2 0.9T,1752 TB,data sheet of March 2025'
  const refused = $derived(form !== null && 'message' in form ? form : null)
</script>

<svelte:head><title>Rated endurance · Disks · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>
<DisksTabs />

<Panel
  title="Models"
  id="models"
  note="how many bytes may be written, as the maker's data sheet says; asked once for each model, and never guessed"
>
  {#if csv !== null && csv.kept > 0}<p class="mb-2" role="status">
      Saved {csv.kept}
      {csv.kept === 1 ? 'rating' : 'ratings'}.
    </p>{/if}
  <Table>
    <thead
      ><tr>
        <th>Model</th><th class="text-right">Drives</th><th>Tells its life</th><th>Rated endurance</th><th
          >Source</th
        ><th></th>
      </tr></thead
    >
    <tbody>
      {#each data.models as model (model.model)}
        <tr data-testid="model-row">
          <td class="font-[620]">{model.model}</td>
          <td class="text-right">{model.drives}</td>
          <td>{model.hasLife ? 'yes' : 'no'}</td>
          {#if data.mayAdminister}
            <td colspan="3">
              <Form action="?/set" class="flex flex-wrap items-center gap-2">
                <input type="hidden" name="model" value={model.model} />
                <Input
                  class="w-28"
                  name="endurance"
                  aria-label="Rated endurance of {model.model}"
                  placeholder="3504 TB"
                  required
                  defaultValue={model.ratedBytes === null ? '' : `${model.ratedBytes / 1e12} TB`}
                />
                <Input
                  class="w-64"
                  name="origin"
                  aria-label="Source of the rating of {model.model}"
                  placeholder="data sheet of March 2025"
                  required
                  maxlength="200"
                  defaultValue={model.origin ?? ''}
                />
                <Button>Save</Button>
                {#if model.ratedBytes !== null}<Button formaction="?/delete" formnovalidate>Delete</Button
                  >{/if}
                {#if model.madeBy !== null}<span class="text-ink-2 text-xs">{model.madeBy}</span>{/if}
              </Form>
              {#if refused?.message && 'of' in refused && refused.of === model.model}
                <p class="text-crit mt-1 text-xs" role="alert">{refused.message}</p>
              {/if}
            </td>
          {:else}
            <td>{model.ratedBytes === null ? 'not known' : formatBytes(model.ratedBytes)}</td>
            <td class="text-ink-2">{model.origin ?? ''}</td>
            <td></td>
          {/if}
        </tr>
      {/each}
    </tbody>
  </Table>
  <p class="text-ink-2 mt-2 text-xs">
    <Link href="/disks/ratings/file" download>All of it as CSV</Link>
  </p>
</Panel>

{#if data.mayAdminister}
  <Panel title="From CSV" id="csv" note="columns model, endurance and source, named in the first line">
    <Form
      action="?/csv"
      enctype="multipart/form-data"
      submit={() =>
        ({ update }) =>
          update({ reset: false })}
    >
      <TextArea
        class="w-full font-mono text-[11px]"
        name="text"
        rows="5"
        aria-label="Ratings as CSV"
        placeholder={EXAMPLE}
        defaultValue={csv?.text ?? ''}
      />
      <div class="mt-2 flex flex-wrap items-center gap-2">
        <FileInput aria-label="CSV file" name="file" accept=".csv,text/csv" />
        <Button look="strong">Import</Button>
        {#if csv !== null && csv.good > 0}
          <Button name="keep" value="good"
            >Save the {csv.good} valid {csv.good === 1 ? 'line' : 'lines'}, skip the others</Button
          >
        {/if}
      </div>
    </Form>
    {#if csv?.message}<p class="text-crit mt-2" role="alert">{csv.message}</p>{/if}
    {#if csv !== null && csv.bad.length > 0}
      <Table class="mt-3">
        <thead><tr><th class="w-14">Line</th><th>What is wrong</th></tr></thead>
        <tbody>
          {#each csv.bad as { line, why } (line)}
            <tr data-testid="bad-line"><td>{line}</td><td class="text-crit">{why}</td></tr>
          {/each}
        </tbody>
      </Table>
    {/if}
  </Panel>
{/if}
