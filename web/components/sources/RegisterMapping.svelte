<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Combobox from '../ui/Combobox.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import TextArea from '../ui/TextArea.svelte'
  import { parse } from 'csv-parse/browser/esm/sync'
  import { stringify } from 'csv-stringify/browser/esm/sync'
  import { untrack } from 'svelte'
  import { formatReading } from '#core/catalogue'
  import {
    BYTE_ORDERS,
    isBitTable,
    lineOfRow,
    MOST_REGISTER_LINES,
    nextLine,
    REGISTER_COLUMNS,
    REGISTER_TABLES,
    REGISTER_WORDS,
    type RegisterBlock,
    type RegisterLine,
    type RegisterMap,
    type RegisterRow,
    rowOfLine,
    valueOf,
  } from '#core/sources'
  import KindSelect from '../gear/KindSelect.svelte'
  import Fold from '../ui/Fold.svelte'
  import MeasureSelect from '../readings/MeasureSelect.svelte'

  /** Which register of a device means what: edited line by line, with what was read beside each. */
  let {
    checkId,
    blocks,
    refused = null,
    kept,
  }: {
    checkId: string
    blocks: readonly RegisterBlock[]
    /** Why what was to be looked at could not be read. */
    refused?: string | null
    kept: RegisterMap | null
  } = $props()

  interface Draft extends Omit<RegisterLine, 'states' | 'none'> {
    states: string
    none: string
  }
  const draftOf = (line: RegisterLine): Draft => ({
    ...line,
    none: line.none === null ? '' : String(line.none),
    states: Object.entries(line.states ?? {})
      .map(([raw, value]) => `${raw}=${value}`)
      .join(', '),
  })
  const lineOf = (draft: Draft): RegisterLine => {
    const states = draft.states
      .split(',')
      .map((word) => word.split('=').map((side) => side.trim()))
      .filter(([raw, value]) => /^-?\d+$/.test(raw ?? '') && value !== undefined && value !== '')
      .map(([raw, value]) => [raw!, Number(value)] as const)
    return {
      ...draft,
      type: isBitTable(draft.table) ? 'bit' : draft.type,
      address: Number(draft.address) || 0,
      scale: Number(draft.scale) || 1,
      offset: Number(draft.offset) || 0,
      none: String(draft.none).trim() === '' ? null : Number(draft.none),
      states: states.length === 0 ? null : Object.fromEntries(states),
    }
  }

  const start = untrack(() => kept)
  let kind = $state<RegisterMap['kind']>(start?.kind ?? 'cooling')
  let maker = $state(start?.maker ?? '')
  let model = $state(start?.model ?? '')
  let drafts = $state<Draft[]>((start?.lines ?? []).map(draftOf))
  const lines = $derived(drafts.map(lineOf))
  const map = $derived<RegisterMap>({ kind, maker, model, serial: start?.serial ?? null, lines })

  const hex = (word: number): string => word.toString(16).padStart(4, '0')
  function read(line: RegisterLine): { raw: string; value: string } {
    const { words, value } = valueOf(line, blocks)
    if (words === null) return { raw: 'not read yet', value: '' }
    const raw = isBitTable(line.table) ? String(words[0]) : words.map(hex).join(' ')
    return { raw, value: value === null ? 'no value' : formatReading(line.measure, value) }
  }
  const isMeant = (table: string, address: number): boolean =>
    lines.some(
      (line) =>
        line.table === table &&
        address >= line.address &&
        address < line.address + (isBitTable(line.table) ? 1 : REGISTER_WORDS[line.type]),
    )
  let sheet = $state('')
  let sheetProblems = $state<string[]>([])
  /** The lines as they stand, to be edited in a sheet and pasted back. */
  const writeSheet = (): void => {
    sheet = stringify(lines.map(rowOfLine), { header: true, columns: [...REGISTER_COLUMNS] })
    sheetProblems = []
  }
  /** Takes all of a pasted sheet, or nothing of it. */
  function takeSheet(): void {
    const read = readSheet(sheet)
    sheetProblems = read.problems
    if (read.problems.length === 0) drafts = read.lines.map(draftOf)
  }
  function readSheet(text: string): { lines: RegisterLine[]; problems: string[] } {
    let rows: { record: RegisterRow; info: { lines: number } }[]
    try {
      rows = parse(text, {
        bom: true,
        columns: (header: string[]) => header.map((name) => name.trim().toLowerCase()),
        delimiter: ['\t', ';', ','],
        info: true,
        relax_column_count: true,
        skip_empty_lines: true,
        trim: true,
        to: MOST_REGISTER_LINES + 1,
      })
    } catch (error) {
      return { lines: [], problems: [`It is not CSV: ${error instanceof Error ? error.message : ''}`] }
    }
    const unknown = Object.keys(rows[0]?.record ?? {}).filter(
      (name) => !(REGISTER_COLUMNS as readonly string[]).includes(name),
    )
    if (rows.length === 0 || unknown.length > 0)
      return {
        lines: [],
        problems: [
          `The first line names the columns, of ${REGISTER_COLUMNS.join(', ')}${unknown.length === 0 ? '; below it is a line for each value' : `; “${unknown[0]}” is none of these`}.`,
        ],
      }
    if (rows.length > MOST_REGISTER_LINES)
      return { lines: [], problems: [`A map has at most ${MOST_REGISTER_LINES} lines.`] }
    const read = rows.map(({ record, info }) => ({ line: lineOfRow(record), at: info.lines }))
    return {
      lines: read.flatMap(({ line }) => (typeof line === 'string' ? [] : [line])),
      problems: read.flatMap(({ line, at }) => (typeof line === 'string' ? [`Line ${at}: ${line}`] : [])),
    }
  }
  function add(table: RegisterLine['table'], address: number): void {
    drafts.push(
      draftOf({
        table,
        address,
        type: isBitTable(table) ? 'bit' : 'u16',
        order: 'ABCD',
        bit: 0,
        part: '',
        partKind: 'sensor',
        measure: isBitTable(table) ? 'hw.leak' : 'hw.temperature',
        scale: 1,
        offset: 0,
        none: null,
        states: null,
      }),
    )
  }
</script>

<Panel
  title="Register map"
  note={`${drafts.length} ${drafts.length === 1 ? 'line' : 'lines'}`}
  id="registers"
  data-testid="registers"
>
  <div class="mb-1 flex flex-wrap gap-2">
    <KindSelect of="gear" label="Kind of gear" bind:value={kind} />
    <Input label="Maker" class="w-40" bind:value={maker} />
    <Input label="Model" class="w-40" bind:value={model} />
  </div>
  {#each drafts as draft, index (index)}
    {@const seen = read(lines[index]!)}
    <fieldset class="border-rule-2 grid gap-1 border-t py-1.5" data-testid="register-line">
      <legend class="sr-only">Line {index + 1}</legend>
      <div class="grid grid-cols-[92px_78px_66px_82px_1fr_auto] items-end gap-1.5">
        <Select
          label="Table"
          bind:value={draft.table}
          options={REGISTER_TABLES.map((table) => ({ value: table, label: table }))}
        />
        <Input label="From 0" type="number" min="0" max="65535" bind:value={draft.address} />
        <Combobox
          label="Type"
          disabled={isBitTable(draft.table)}
          bind:value={draft.type}
          options={Object.keys(REGISTER_WORDS).map((type) => ({ value: type, label: type }))}
        />
        {#if draft.type === 'bit' && !isBitTable(draft.table)}
          <Input label="Bit" type="number" min="0" max="15" bind:value={draft.bit} />
        {:else}
          <Select
            label="Order"
            disabled={isBitTable(draft.table)}
            bind:value={draft.order}
            options={BYTE_ORDERS.map((order) => ({ value: order, label: order }))}
          />
        {/if}
        <span class="self-center truncate text-right"
          ><code class="font-mono text-[11px]">{seen.raw}</code>
          <strong data-testid="decoded">{seen.value}</strong></span
        >
        <span class="flex gap-2 self-center">
          <Button
            look="link"
            class="text-ink-2 text-xs"
            type="button"
            title="The same again for the registers behind it"
            onclick={() => drafts.splice(index + 1, 0, draftOf(nextLine(lines[index]!)))}>Copy</Button
          >
          <Button look="link" class="text-ink-2 text-xs" type="button" onclick={() => drafts.splice(index, 1)}
            >Remove</Button
          >
        </span>
      </div>
      <div class="grid grid-cols-[minmax(0,1fr)_104px_minmax(0,1.4fr)_72px_72px_72px_96px] items-end gap-1.5">
        <Input label="Part" placeholder="the gear itself" bind:value={draft.part} />
        <KindSelect of="part" label="Kind of part" bind:value={draft.partKind} />
        <MeasureSelect label="Measure" bind:value={draft.measure} />
        <Input label="Times" type="number" step="any" bind:value={draft.scale} />
        <Input label="Plus" type="number" step="any" bind:value={draft.offset} />
        <Input label="No value is" placeholder="–" bind:value={draft.none} />
        <Input label="States" placeholder="0=0, 1=2" bind:value={draft.states} />
      </div>
    </fieldset>
  {/each}
  <div class="border-rule-2 flex flex-wrap items-center gap-2 border-t pt-2">
    <Form action="?/map">
      <input type="hidden" name="check" value={checkId} />
      <input type="hidden" name="map" value={JSON.stringify(map)} />
      <Button look="strong">Use this map</Button>
    </Form>
    <Button type="button" onclick={() => add('holding', 0)}>Add a line</Button>
    <p class="text-ink-2 text-xs">Registers are counted from 0, as they go over the wire.</p>
  </div>
  <Fold class="border-rule-2 mt-2 border-t pt-1.5" titleClass="font-[640]">
    {#snippet title()}Lines as a sheet{/snippet}
    <p class="text-ink-2 my-1 text-xs">
      Paste a CSV or the cells of a spreadsheet. Columns: {REGISTER_COLUMNS.join(', ')}. Table, register and
      measure are needed; registers count from 0, also as 0x1A.
    </p>
    <TextArea class="w-full font-mono text-[11px]" rows="6" aria-label="Lines as CSV" bind:value={sheet} />
    {#each sheetProblems.slice(0, 8) as problem (problem)}<p class="text-crit" role="alert">
        {problem}
      </p>{/each}
    {#if sheetProblems.length > 8}<p class="text-crit">and {sheetProblems.length - 8} more lines.</p>{/if}
    <div class="mt-1 flex gap-2">
      <Button type="button" disabled={sheet.trim() === ''} onclick={takeSheet}>Add these lines</Button>
      <Button type="button" disabled={drafts.length === 0} onclick={writeSheet}
        >Copy the lines above to CSV</Button
      >
    </div>
  </Fold>
  {#if refused !== null}
    <p class="mt-3" data-testid="look-refused">
      It refuses to be looked at there ({refused}). Look elsewhere, or write lines from its maker’s list: what
      they need is read.
    </p>
  {/if}
  {#each blocks as { table, address, values }, index (index)}
    <h3 class="mt-3 font-[640]">{table} {address} to {address + values.length - 1}</h3>
    <ul class="grid grid-cols-[repeat(auto-fill,minmax(132px,1fr))] gap-x-3">
      {#each values as word, offset (offset)}
        <li class="border-rule-2 flex items-baseline justify-between gap-1 border-t font-mono text-[11px]">
          <Button
            look="link"
            type="button"
            aria-label="Add a line for {table} {address + offset}"
            onclick={() => add(table, address + offset)}>{address + offset}</Button
          >
          <span class={isMeant(table, address + offset) ? 'text-ink-3' : ''}
            >{isBitTable(table) ? word : `${hex(word)} ${word}`}</span
          >
        </li>
      {/each}
    </ul>
  {/each}
</Panel>
