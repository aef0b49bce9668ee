<script lang="ts" generics="Row">
  import { createVirtualizer, elementScroll } from '@tanstack/svelte-virtual'
  import { DropdownMenu } from 'bits-ui'
  import { type Snippet, untrack } from 'svelte'
  import { saveAs } from '$lib/client/pictures'
  import Button from './Button.svelte'
  import Checkbox from './Checkbox.svelte'
  import Tick from './Tick.svelte'
  import { type Column, nextSort, type Sort, sortRows } from './dataTable'
  import { FIELD, ITEM, MENU } from './looks'

  /**
   * Rows of one kind, thousands of them without delay: sorted at a click on a heading, with the columns that a person
   * chooses, selected one by one or all, and exported as they are shown.
   */
  let {
    name,
    rows,
    columns,
    idOf,
    hrefOf,
    sort = $bindable(''),
    selected = $bindable(),
    cells = {},
    filters,
    tools,
    says,
    empty = 'Nothing fits these filters.',
    rowPx = 33,
    height = 'max-h-[calc(100vh-230px)]',
    rowTestid,
    onpoint,
  }: {
    /** What it is a table of: its accessible name, and the name of the exported file. */
    name: string
    rows: readonly Row[]
    columns: readonly Column<Row>[]
    idOf: (row: Row) => number
    /** Where a row leads; it is opened from its first column, or anywhere on the row. */
    hrefOf?: (row: Row) => string
    sort?: Sort
    /** Given where rows may be selected. */
    selected?: ReadonlySet<number> | undefined
    /** Cells that are drawn and not only written, by the key of their column. */
    cells?: Readonly<Record<string, Snippet<[Row]>>>
    /** What narrows the rows, above them. */
    filters?: Snippet
    /** What stands beside the choice of columns. */
    tools?: Snippet
    /** How many are shown, in words. */
    says?: string
    empty?: string
    rowPx?: number
    height?: string
    rowTestid?: string
    /** The row that is pointed at, or has the focus; `null` when none is. */
    onpoint?: (row: Row | null) => void
  } = $props()

  const kept = $derived(`columns of ${name}`)
  /** Whether a column is shown, where a person has chosen. */
  let chosen = $state<Readonly<Record<string, boolean>>>({})
  $effect(() => {
    const saved = localStorage.getItem(kept)
    if (saved !== null)
      chosen = Object.fromEntries(saved.split(' ').map((each) => [each.slice(1), each[0] === '+']))
  })
  const visible = $derived(
    Object.fromEntries(columns.map(({ key, isExtra }) => [key, chosen[key] ?? isExtra !== true])),
  )
  const shown = $derived(columns.filter(({ key }) => visible[key]))
  const sorted = $derived(sortRows(rows, columns, sort))

  let scroller = $state<HTMLElement | null>(null)
  const virtual = createVirtualizer<HTMLElement, HTMLElement>({
    count: untrack(() => rows.length),
    getScrollElement: () => scroller,
    estimateSize: () => untrack(() => rowPx),
    overscan: 12,
    initialRect: { width: 1000, height: 640 },
    // How high its window is, is said by the layout that comes anyway; asked for now, one would be made for it alone.
    observeElementRect: ({ scrollElement }, tell) => {
      if (scrollElement === null) return undefined
      const observer = new ResizeObserver(() =>
        tell({ width: scrollElement.offsetWidth, height: scrollElement.offsetHeight }),
      )
      observer.observe(scrollElement)
      return () => observer.disconnect()
    },
    // What is new stands at its top already.
    scrollToFn: (offset, options, instance) => {
      if (offset !== 0) elementScroll(offset, options, instance)
    },
  })
  $effect(() => {
    const count = rows.length
    void scroller
    untrack(() => $virtual.setOptions({ count, getScrollElement: () => scroller }))
  })

  /** Tells of the row while it is pointed at, or has the focus. */
  function pointing(node: HTMLElement, row: Row): (() => void) | undefined {
    if (onpoint === undefined) return undefined
    const [on, off] = [() => onpoint(row), () => onpoint(null)]
    const told = [
      ['pointerenter', on],
      ['focusin', on],
      ['pointerleave', off],
      ['focusout', off],
    ] as const
    for (const [name, tell] of told) node.addEventListener(name, tell)
    return () => {
      for (const [name, tell] of told) node.removeEventListener(name, tell)
    }
  }

  const all = $derived(rows.length > 0 && rows.every((row) => selected?.has(idOf(row))))
  const some = $derived(!all && rows.some((row) => selected?.has(idOf(row))))
  const toggled = (id: number): ReadonlySet<number> =>
    new Set(selected?.has(id) ? [...selected].filter((each) => each !== id) : [...(selected ?? []), id])

  function show(key: string, isShown: boolean): void {
    chosen = { ...chosen, [key]: isShown }
    localStorage.setItem(
      kept,
      Object.entries(chosen)
        .map(([each, is]) => `${is ? '+' : '-'}${each}`)
        .join(' '),
    )
  }
  async function exportCsv(): Promise<void> {
    const { csvOf } = await import('./tableCsv')
    const file = new Blob([csvOf(shown, sorted)], { type: 'text/csv;charset=utf-8' })
    saveAs(file, `${name.toLowerCase().replace(/\W+/g, '-')}.csv`)
  }
  const direction = (key: string) =>
    sort === key ? 'ascending' : sort === `-${key}` ? 'descending' : ('none' as const)
  const MARKS = { ascending: ' ↑', descending: ' ↓', none: '' } as const
  const LINE = 'flex items-center gap-2'
</script>

<div class="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1.5">
  {@render filters?.()}
  <span class="ml-auto">{@render tools?.()}</span>
  <span class="text-ink-2 text-xs">{says ?? `${rows.length} rows`}</span>
  <Button look="link" onclick={exportCsv} disabled={rows.length === 0}>Export CSV</Button>
  <DropdownMenu.Root>
    <DropdownMenu.Trigger class={[FIELD, 'py-0.5! whitespace-nowrap']}>Columns ▾</DropdownMenu.Trigger>
    <DropdownMenu.Portal>
      <DropdownMenu.Content class={[MENU, 'min-w-44']} sideOffset={4} align="end">
        {#each columns as { key, label } (key)}
          <DropdownMenu.CheckboxItem
            class={ITEM}
            closeOnSelect={false}
            disabled={visible[key] && shown.length === 1}
            bind:checked={() => visible[key]!, (is) => show(key, is)}
          >
            {#snippet children({ checked })}<span class="w-3" aria-hidden="true">{checked ? '✓' : ''}</span
              >{label}{/snippet}
          </DropdownMenu.CheckboxItem>
        {/each}
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
</div>
<!-- svelte-ignore a11y_no_noninteractive_tabindex -- what scrolls must be reachable by keyboard -->
<div
  bind:this={scroller}
  class="{height} scroll-pt-7 overflow-auto"
  role="table"
  aria-label={name}
  aria-rowcount={rows.length + 1}
  tabindex="0"
>
  <div class="min-w-max" role="presentation">
    <div role="row" class="{LINE} text-ink-3 bg-sheet sticky top-0 z-20 pb-0.5 text-[11px] font-semibold">
      {#if selected !== undefined}
        <span role="columnheader" class="w-5 shrink-0"
          ><Checkbox
            aria-label="Select all shown"
            defaultChecked={all}
            indeterminate={some}
            onchange={() => (selected = all ? new Set() : new Set(sorted.slice(0, 500).map(idOf)))}
          /></span
        >
      {/if}
      {#each shown as column (column.key)}
        <span
          role="columnheader"
          class={['shrink-0', column.width, column.isNumber && 'text-right']}
          aria-sort={direction(column.key)}
          ><Button
            look="bare"
            class="font-semibold whitespace-nowrap hover:underline"
            onclick={() => (sort = nextSort(sort, column))}
            >{column.label}{MARKS[direction(column.key)]}</Button
          ></span
        >
      {/each}
    </div>
    <div
      class="relative"
      role="rowgroup"
      {@attach (node) => void (node.style.height = `${$virtual.getTotalSize()}px`)}
    >
      {#each $virtual.getVirtualItems() as item (item.index)}
        {@const row = sorted[item.index]}
        {#if row !== undefined}
          <div
            role="row"
            aria-rowindex={item.index + 2}
            class="{LINE} border-rule-2 hover:bg-accent-soft absolute inset-x-0 top-0 border-t"
            {@attach (node) => {
              node.style.transform = `translateY(${item.start}px)`
              node.style.height = `${rowPx}px`
            }}
            data-row
            data-testid={rowTestid}
            {@attach (node) => pointing(node, row)}
          >
            {#if selected !== undefined}
              <span role="cell" class="relative z-10 w-5 shrink-0"
                ><Tick
                  aria-label="Select {String(shown[0]?.value(row) ?? '')}"
                  checked={selected.has(idOf(row))}
                  onchange={() => (selected = toggled(idOf(row)))}
                /></span
              >
            {/if}
            {#each shown as column, at (column.key)}
              <span
                role="cell"
                class={[
                  'shrink-0 truncate',
                  column.width,
                  column.isNumber && 'text-right tabular-nums',
                  column.looks,
                ]}
                title={column.tip?.(row)}
              >
                {#if at === 0 && hrefOf !== undefined}
                  <a class="font-[640] after:absolute after:inset-0" href={hrefOf(row)}
                    >{@render content(column, row)}</a
                  >
                {:else}{@render content(column, row)}{/if}
              </span>
            {/each}
          </div>
        {/if}
      {/each}
    </div>
    {#if rows.length === 0}<p class="text-ink-2 border-rule-2 border-t py-3 text-xs">{empty}</p>{/if}
  </div>
</div>

{#snippet content(column: Column<Row>, row: Row)}
  {@const drawn = cells[column.key]}
  {#if drawn}{@render drawn(row)}{:else}{column.text?.(row) ?? column.value(row) ?? ''}{/if}
{/snippet}
