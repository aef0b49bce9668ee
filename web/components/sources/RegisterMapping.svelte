<script lang="ts">
  import { untrack } from 'svelte'
  import { formatReading } from '#core/catalogue'
  import {
    BYTE_ORDERS,
    isBitTable,
    REGISTER_TABLES,
    REGISTER_WORDS,
    type RegisterBlock,
    type RegisterLine,
    type RegisterMap,
    valueOf,
  } from '#core/sources'
  import { enhance } from '$lib/client/forms'
  import KindSelect from '../gear/KindSelect.svelte'
  import MeasureSelect from '../readings/MeasureSelect.svelte'

  /** Which register of a device means what: edited line by line, with what was read beside each. */
  let {
    checkId,
    blocks,
    kept,
  }: { checkId: string; blocks: readonly RegisterBlock[]; kept: RegisterMap | null } = $props()

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

<section class="panel" aria-labelledby="registers" data-testid="registers">
  <h2 class="panel-title" id="registers">
    What its registers mean <span>{drafts.length} {drafts.length === 1 ? 'line' : 'lines'}</span>
  </h2>
  <div class="mb-1 flex flex-wrap gap-2">
    <label class="muted grid">It is a <KindSelect of="gear" label="Kind of gear" bind:value={kind} /></label>
    <label class="muted grid">Maker <input class="field w-40" bind:value={maker} /></label>
    <label class="muted grid">Model <input class="field w-40" bind:value={model} /></label>
  </div>
  {#each drafts as draft, index (index)}
    {@const seen = read(lines[index]!)}
    <fieldset class="border-rule-2 grid gap-1 border-t py-1.5" data-testid="register-line">
      <legend class="sr-only">Line {index + 1}</legend>
      <div class="grid grid-cols-[92px_78px_66px_82px_1fr_auto] items-end gap-1.5">
        <label class="muted grid"
          >Table <select class="field" bind:value={draft.table}
            >{#each REGISTER_TABLES as table (table)}<option>{table}</option>{/each}</select
          ></label
        >
        <label class="muted grid"
          >From 0 <input class="field" type="number" min="0" max="65535" bind:value={draft.address} /></label
        >
        <label class="muted grid"
          >Type <select class="field" disabled={isBitTable(draft.table)} bind:value={draft.type}
            >{#each Object.keys(REGISTER_WORDS) as type (type)}<option>{type}</option>{/each}</select
          ></label
        >
        {#if draft.type === 'bit' && !isBitTable(draft.table)}
          <label class="muted grid"
            >Bit <input class="field" type="number" min="0" max="15" bind:value={draft.bit} /></label
          >
        {:else}
          <label class="muted grid"
            >Order <select class="field" disabled={isBitTable(draft.table)} bind:value={draft.order}
              >{#each BYTE_ORDERS as order (order)}<option>{order}</option>{/each}</select
            ></label
          >
        {/if}
        <span class="self-center truncate text-right"
          ><code class="font-mono text-[11px]">{seen.raw}</code>
          <strong data-testid="decoded">{seen.value}</strong></span
        >
        <button class="link muted self-center" type="button" onclick={() => drafts.splice(index, 1)}
          >Take out</button
        >
      </div>
      <div class="grid grid-cols-[minmax(0,1fr)_104px_minmax(0,1.4fr)_72px_72px_72px_96px] items-end gap-1.5">
        <label class="muted grid"
          >Part <input class="field" placeholder="the gear itself" bind:value={draft.part} /></label
        >
        <label class="muted grid"
          >is a <KindSelect of="part" label="Kind of part" bind:value={draft.partKind} /></label
        >
        <label class="muted grid">Measure <MeasureSelect label="Measure" bind:value={draft.measure} /></label>
        <label class="muted grid"
          >Times <input class="field" type="number" step="any" bind:value={draft.scale} /></label
        >
        <label class="muted grid"
          >Plus <input class="field" type="number" step="any" bind:value={draft.offset} /></label
        >
        <label class="muted grid"
          >None is <input class="field" placeholder="–" bind:value={draft.none} /></label
        >
        <label class="muted grid"
          >States <input class="field" placeholder="0=0, 1=2" bind:value={draft.states} /></label
        >
      </div>
    </fieldset>
  {/each}
  <div class="border-rule-2 flex flex-wrap items-center gap-2 border-t pt-2">
    <form method="POST" action="?/map" use:enhance>
      <input type="hidden" name="check" value={checkId} />
      <input type="hidden" name="map" value={JSON.stringify(map)} />
      <button class="btn btn-strong">Read by this map</button>
    </form>
    <button class="btn" type="button" onclick={() => add('holding', 0)}>Add a line</button>
    <p class="muted">Registers are counted from 0, as they go over the wire.</p>
  </div>
  {#each blocks as { table, address, values }, index (index)}
    <h3 class="mt-3 font-[640]">{table} {address} to {address + values.length - 1}</h3>
    <ul class="grid grid-cols-[repeat(auto-fill,minmax(132px,1fr))] gap-x-3">
      {#each values as word, offset (offset)}
        <li class="border-rule-2 flex items-baseline justify-between gap-1 border-t font-mono text-[11px]">
          <button
            class="link"
            type="button"
            aria-label="Add a line for {table} {address + offset}"
            onclick={() => add(table, address + offset)}>{address + offset}</button
          >
          <span class={isMeant(table, address + offset) ? 'text-ink-3' : ''}
            >{isBitTable(table) ? word : `${hex(word)} ${word}`}</span
          >
        </li>
      {/each}
    </ul>
  {/each}
</section>
