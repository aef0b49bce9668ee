<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import DataTable from '$lib/components/ui/DataTable.svelte'
  import type { Column } from '$lib/components/ui/dataTable'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { GEAR_KINDS } from '#core/catalogue'
  import { fitsGearList, GEAR_STATES, gearListFilterOf, STATE_WORDS } from '#core/gear'
  import ManyGear from '$lib/components/gear/ManyGear.svelte'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import { WholeList } from '$lib/client/wholeList.svelte'
  import { MONO, SMALL } from '$lib/components/ui/looks'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  let marked = $state<ReadonlySet<number>>(new Set())
  const filter = $derived(gearListFilterOf(page.url.searchParams))
  const list = new WholeList(
    () => data.list,
    () => '/gear/rows',
  )
  const shown = $derived(list.rows.filter((gear) => fitsGearList(gear, filter)))
  const sentence = $derived.by(() => {
    const bad = data.unwell
    if (data.count === 0) return 'No gear is known yet. It appears when a first source is heard.'
    return bad === 0
      ? `All ${data.count} gear are well.`
      : `${bad} of ${data.count} ${bad === 1 ? 'needs' : 'need'} attention.`
  })

  /** Kinds as filters, the most frequent first. */
  const kinds = $derived(
    Object.entries(GEAR_KINDS)
      .flatMap(([key, { label, plural }]) => {
        const count = data.kinds[key] ?? 0
        return count === 0
          ? []
          : [
              {
                key,
                count,
                words:
                  count === 1 ? label.replace(/^[A-Z](?=[a-z])/, (first) => first.toLowerCase()) : plural,
              },
            ]
      })
      .toSorted((a, b) => b.count - a.count),
  )
  type Row = (typeof shown)[number]
  const COLUMNS: readonly Column<Row>[] = [
    { key: 'name', label: 'Name', width: 'w-36 grow-[1.2]', value: ({ name }) => name },
    {
      key: 'state',
      label: 'State',
      order: ({ state }) => GEAR_STATES.indexOf(state),
      width: 'w-36',
      value: ({ state, openCount }) => `${STATE_WORDS[state]}${openCount > 0 ? `, ${openCount} open` : ''}`,
    },
    { key: 'kind', label: 'Kind', width: 'w-32', looks: SMALL, value: ({ kind }) => GEAR_KINDS[kind].label },
    { key: 'model', label: 'Model', width: 'w-28 grow', looks: SMALL, value: ({ model }) => model },
    { key: 'serial', label: 'Serial', width: 'w-28', looks: MONO, value: ({ serial }) => serial },
    { key: 'place', label: 'Place', width: 'w-40 grow-[1.2]', looks: MONO, value: ({ place }) => place },
    {
      key: 'open',
      label: 'Open alerts',
      width: 'w-20',
      isNumber: true,
      isExtra: true,
      value: ({ openCount }) => openCount,
    },
    {
      key: 'tags',
      label: 'Tags',
      width: 'w-32',
      looks: SMALL,
      isExtra: true,
      value: ({ tags }) => tags.join(', '),
    },
  ]
  function set(name: string, value: string): void {
    const next = new URL(page.url)
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
  }
</script>

<svelte:head><title>Gear · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>
<GearTabs />

{#if data.pairs.length > 0}
  <Panel
    title="Possible duplicates"
    note="what is made one keeps all its readings, and can be taken apart again"
    id="pairs"
  >
    {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
    {#each data.pairs as { a, b, why } (`${a.id} ${b.id}`)}
      <div
        class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 border-t py-1.5"
        data-testid="likely-pair"
      >
        <p>
          {#each [a, b] as each, index (each.id)}{index === 0 ? '' : ' and '}<Link
              class="font-[640]"
              href="/gear/{each.id}">{each.name}</Link
            >
            <span class="text-ink-2 text-xs"
              >({GEAR_KINDS[each.kind].label.toLowerCase()}, seen by {each.seenBy || 'nothing now'})</span
            >{/each}: {why}.
        </p>
        {#if data.mayAdminister}
          <Form class="flex gap-2">
            <input type="hidden" name="a" value={a.id} />
            <input type="hidden" name="b" value={b.id} />
            <Button look="strong" formaction="?/merge">Merge</Button>
            <Button formaction="?/apart">Keep apart</Button>
          </Form>
        {/if}
      </div>
    {/each}
  </Panel>
{/if}

<Panel aria-label="Gear">
  <div class="mb-2 flex flex-wrap gap-x-3 gap-y-0.5" role="group" aria-label="Kind">
    {#each [{ key: '', count: data.count, words: 'gear in all' }, ...kinds] as { key, count, words } (key)}
      <Button
        look="bare"
        class="text-ink-2 aria-pressed:text-ink aria-pressed:border-ink border-b-2 border-transparent hover:underline aria-pressed:font-[620]"
        aria-pressed={filter.kind === key}
        onclick={() => set('kind', key)}>{count} {words}</Button
      >
    {/each}
  </div>
  {#if form !== null && 'said' in form}<p class="mb-2" role="status">Done: {form.said}.</p>{/if}
  {#if marked.size > 0}
    <ManyGear
      ids={[...marked]}
      racks={data.racks}
      ownFields={data.ownFields}
      mayAdminister={data.mayAdminister}
      done={() => (marked = new Set())}
    />
  {/if}
  <DataTable
    name="Gear"
    rows={shown}
    columns={COLUMNS}
    idOf={({ id }) => id}
    hrefOf={({ id }) => `/gear/${id}`}
    bind:sort={() => page.url.searchParams.get('sort') ?? '', (sort) => set('sort', sort)}
    bind:selected={() => (data.mayOperate ? marked : undefined), (next) => (marked = next ?? new Set())}
    cells={{ state: stateCell }}
    {filters}
    says="{list.isWhole ? shown.length : data.fitCount} of {data.count}"
    rowPx={37}
    height="max-h-[calc(100vh-250px)]"
    rowTestid="gear-row"
  />
</Panel>

{#snippet stateCell({ state, openCount }: Row)}
  <Glyph {state} />
  <span class="text-ink-2 text-xs">{STATE_WORDS[state]}{openCount > 0 ? `, ${openCount} open` : ''}</span>
{/snippet}
{#snippet filters()}
  <Input
    class="w-64"
    placeholder="Name, model, serial, place, tag"
    aria-label="Search in the list"
    defaultValue={page.url.searchParams.get('q') ?? ''}
    oninput={(event) => set('q', event.currentTarget.value)}
  />
  <Select
    aria-label="Place"
    defaultValue={filter.place}
    onchange={(value) => set('place', value)}
    options={[
      { value: '', label: 'Anywhere' },
      { value: 'stock', label: 'Not placed yet' },
      { value: 'placed', label: 'Placed' },
    ]}
  />
  <Select
    aria-label="State"
    defaultValue={filter.state}
    onchange={(value) => set('state', value)}
    options={[
      { value: '', label: 'All states' },
      ...GEAR_STATES.map((key) => ({ value: key, label: STATE_WORDS[key] })),
    ]}
  />
{/snippet}
