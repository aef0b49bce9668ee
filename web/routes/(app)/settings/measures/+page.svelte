<script lang="ts">
  import { MEASURE_GROUPS, type OwnMeasure } from '#core/catalogue'
  import { formatNumber, UNITS } from '#core/units'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Confirm from '$lib/components/ui/Confirm.svelte'
  import EmptyState from '$lib/components/ui/EmptyState.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Notice from '$lib/components/ui/Notice.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  let edited = $state<OwnMeasure | null>(null)
  let kind = $state('gauge')

  const KINDS = [
    { value: 'gauge', label: 'Gauge: goes up and down' },
    { value: 'counter', label: 'Counter: a running total' },
    { value: 'state', label: 'State: words for numbers' },
  ]
  const units = Object.entries(UNITS)
    .filter(([unit]) => unit !== 'state')
    .map(([unit, { symbol }]) => ({ value: unit, label: symbol === '' ? unit : `${symbol} (${unit})` }))
  const sentence = $derived(
    data.measures.length === 0
      ? 'No measures of your own.'
      : `${data.measures.length} measure${data.measures.length === 1 ? '' : 's'} of your own.`,
  )
  const statesOf = (measure: OwnMeasure | null): string =>
    Object.entries(measure?.states ?? {})
      .map(([number, word]) => `${number}=${word}`)
      .join(', ')
  const bound = (value: number | null | undefined): string => (value == null ? '' : String(value))
  function rangeWords({ range, decimals }: OwnMeasure): string {
    if (range === undefined) return '–'
    const [low, high] = [range.low, range.high].map((each) =>
      each === null ? null : formatNumber(each, decimals),
    )
    if (low == null) return `at most ${high}`
    return high == null ? `at least ${low}` : `${low} to ${high}`
  }
  function edit(measure: OwnMeasure | null): void {
    edited = measure
    kind = measure?.kind ?? 'gauge'
  }
</script>

<svelte:head><title>Measures · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">
  {sentence}
  <span class="text-ink-2 font-[450]">What a mapping can name, a rule can judge and a chart can draw.</span>
</h1>
<SettingsTabs />
{#if form?.refused != null}<Notice kind="problem">{form.refused}</Notice>{/if}
{#if form?.removed != null}<Notice>{form.removed} is deleted.</Notice>{/if}

<Panel title="Own measures">
  {#if data.measures.length === 0}
    <EmptyState
      text="Measures that ship are known everywhere already. Add one below when your gear tells something that none of them means."
    />
  {:else}
    <Table>
      <thead>
        <tr><th>Name</th><th>Key</th><th>Kind</th><th>Unit</th><th>Range</th><th>Used by</th><th></th></tr>
      </thead>
      <tbody>
        {#each data.measures as measure (measure.key)}
          <tr data-testid="measure-row">
            <td class="font-[620]">{measure.label}</td>
            <td class="font-mono text-[11px]">{measure.key}</td>
            <td>{measure.kind}</td>
            <td
              >{measure.kind === 'state' ? statesOf(measure) : UNITS[measure.unit].symbol || measure.unit}</td
            >
            <td>{measure.kind === 'state' ? '–' : rangeWords(measure)}</td>
            <td class="text-ink-2 text-xs">{measure.keptBy || 'nothing yet'}</td>
            <td>
              <Form action="?/remove" class="flex justify-end gap-1.5">
                <input type="hidden" name="key" value={measure.key} />
                <Button type="button" onclick={() => edit(measure)}>Edit</Button>
                <Confirm
                  label="Delete"
                  question="Delete the measure {measure.label}?"
                  consequence="It is refused while rules, mappings or stored readings use it."
                  act="Delete measure"
                />
              </Form>
            </td>
          </tr>
        {/each}
      </tbody>
    </Table>
  {/if}
</Panel>

{#key edited}
  <Panel title={edited === null ? 'Add measure' : `Edit ${edited.key}`}>
    {#if form != null && 'message' in form && form.message != null}<Notice kind="problem" class="mb-2"
        >{form.message}</Notice
      >{/if}
    {#if form != null && 'saved' in form && form.saved != null}<Notice class="mb-2"
        >{form.saved} is saved. Mappings, rules and charts know it now.</Notice
      >{/if}
    <Form
      action="?/save"
      class="grid gap-3"
      submit={() =>
        async ({ result, update }) => {
          await update({ reset: result.type === 'success' })
          if (result.type === 'success') edit(null)
        }}
    >
      <input type="hidden" name="isNew" value={edited === null ? 'yes' : 'no'} />
      <div class="flex flex-wrap items-start gap-2.5">
        <Input
          label="Name"
          name="label"
          class="w-56"
          maxlength={40}
          required
          defaultValue={edited?.label ?? ''}
        />
        <Input
          label="Key"
          name="key"
          class="w-64 font-mono"
          maxlength={64}
          required
          readonly={edited !== null}
          defaultValue={edited?.key ?? ''}
          placeholder="hw.pump.vibration"
          help={edited === null ? 'Small letters with points between. It stays.' : 'A key stays.'}
        />
        <Select
          label="Group"
          name="group"
          defaultValue={edited?.group ?? 'Climate'}
          options={MEASURE_GROUPS.map((group) => ({ value: group, label: group }))}
        />
      </div>
      <div class="flex flex-wrap items-start gap-2.5">
        <Select label="Kind" name="kind" bind:value={kind} options={KINDS} />
        {#if kind === 'state'}
          <Input
            label="States"
            name="states"
            class="w-96"
            defaultValue={statesOf(edited)}
            placeholder="0=closed, 1=open"
            help="A number and its word, with commas between."
          />
        {:else}
          <Select label="Unit" name="unit" defaultValue={edited?.unit ?? 'count'} options={units} />
          <Input
            label="Decimals"
            name="decimals"
            class="w-16"
            inputmode="numeric"
            defaultValue={String(edited?.decimals ?? 1)}
          />
          <Input
            label="Lowest reading"
            name="low"
            class="w-28"
            inputmode="decimal"
            defaultValue={bound(edited?.range?.low)}
            help="Below it is no reading."
          />
          <Input
            label="Highest reading"
            name="high"
            class="w-28"
            inputmode="decimal"
            defaultValue={bound(edited?.range?.high)}
            help="Above it is no reading."
          />
        {/if}
      </div>
      <div class="flex gap-2">
        <Button look="strong">{edited === null ? 'Add measure' : 'Save measure'}</Button>
        {#if edited !== null}<Button type="button" onclick={() => edit(null)}>Cancel</Button>{/if}
      </div>
    </Form>
  </Panel>
{/key}
