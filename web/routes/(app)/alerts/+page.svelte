<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { formatElapsed, formatMoment, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  let marked = $state<ReadonlySet<number>>(new Set())
  let unfolded = $state<ReadonlySet<number>>(new Set())

  const plural = (count: number, one: string): string =>
    `${formatNumber(count, 0)} ${one}${count === 1 ? '' : 's'}`
  const span = $derived(formatElapsed(data.filter.toMs - data.filter.fromMs))
  const sentence = $derived.by(() => {
    const { open, following, critical, quiet, opened } = data.counts
    const now =
      open === 0
        ? 'Nothing is open'
        : `${plural(open, 'alert')} open${critical === 0 ? '' : `, ${formatNumber(critical, 0)} of them critical`}`
    const under = following === 0 ? '' : `, and ${formatNumber(following, 0)} that follow from them`
    const still = quiet === 0 ? '' : `, ${formatNumber(quiet, 0)} more quiet or accepted`
    return `${now}${under}${still}. Within ${span} ${plural(opened, 'alert')} opened.`
  })
  const STATES = $derived([
    ['open', 'open', data.counts.open],
    ['taken', 'taken', data.counts.taken],
    ['quiet', 'quiet or accepted', data.counts.quiet],
    ['cleared', `cleared within ${span}`, data.counts.cleared],
    ['all', 'all', null],
  ] as const)

  function set(name: string, value: string | null): string {
    const next = new URL(page.url)
    next.searchParams.delete('before')
    if (value === null || value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    return next.search === '' ? next.pathname : next.search
  }
  let typing: ReturnType<typeof setTimeout> | undefined
  function search(words: string): void {
    clearTimeout(typing)
    typing = setTimeout(
      () => void goto(set('q', words), { keepFocus: true, replaceState: true, noScroll: true }),
      200,
    )
  }
  const toggled = (all: ReadonlySet<number>, id: number): ReadonlySet<number> =>
    new Set(all.has(id) ? [...all].filter((each) => each !== id) : [...all, id])
  const after = () => {
    return async ({ update }: { update: () => Promise<void> }) => {
      await update()
      marked = new Set()
    }
  }
</script>

<svelte:head><title>Alerts · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>
<AlertTabs />

<div class="flex flex-wrap items-center gap-x-4 gap-y-2">
  <Input
    class="w-64"
    type="search"
    placeholder="Search alerts"
    aria-label="Only alerts with these words"
    defaultValue={data.filter.words}
    oninput={(event) => search(event.currentTarget.value)}
  />
  <nav class="flex gap-3" aria-label="State">
    {#each STATES as [state, word, count] (state)}
      <a
        href={set('state', state === 'open' ? null : state)}
        aria-current={data.filter.state === state ? 'true' : undefined}
        class="text-ink-2 aria-[current]:text-ink aria-[current]:border-ink border-b-2 border-transparent hover:underline aria-[current]:font-[620]"
        >{word}{count === null ? '' : ` ${formatNumber(count, 0)}`}</a
      >
    {/each}
  </nav>
  <nav class="flex gap-3" aria-label="Severity">
    {#each [['', 'any severity'], ['critical', 'critical'], ['warning', 'warning']] as const as [severity, word] (severity)}
      <a
        href={set('severity', severity)}
        aria-current={(data.filter.severity ?? '') === severity ? 'true' : undefined}
        class="text-ink-2 aria-[current]:text-ink aria-[current]:border-ink border-b-2 border-transparent hover:underline aria-[current]:font-[620]"
        >{word}</a
      >
    {/each}
  </nav>
  {#if data.filter.ruleKey !== null}
    <a class="border-rule border px-1.5" href={set('rule', null)}>rule “{data.filter.ruleName}” ×</a>
  {/if}
  {#if data.filter.gearId !== null}<a class="border-rule border px-1.5" href={set('gear', null)}>one gear ×</a
    >{/if}
</div>

<Panel aria-label="Alerts">
  {#if form?.message != null}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
  {#if form?.said != null}<p class="mb-2" role="status">{form.said}</p>{/if}
  {#if marked.size > 0}
    <Form submit={after} class="bg-accent-soft mb-2 flex flex-wrap items-center gap-2 px-2 py-1.5">
      {#each marked as id (id)}<input type="hidden" name="id" value={id} />{/each}
      <b>{plural(marked.size, 'alert')} marked</b>
      <Button formaction="?/take">Take</Button>
      <span class="ml-3">or quiet them for</span>
      <Select
        name="length"
        aria-label="For how long"
        options={[
          ...['1 h', '4 h', '12 h', '1 d', '7 d'].map((length) => ({ value: length, label: length })),
          { value: 'open', label: 'until I end it' },
        ]}
      />
      <Input class="w-64" name="reason" placeholder="because" aria-label="Reason" />
      <Button formaction="?/quiet">Quiet</Button>
      <Button formaction="?/accept" title="They are as they should be; each comes back when it changes"
        >Accept</Button
      >
      <Button class="ml-auto" type="button" onclick={() => (marked = new Set())}>Clear selection</Button>
    </Form>
  {/if}
  <Table>
    <thead>
      <tr>
        <th class="w-6"></th>
        <th class="w-6"></th>
        <th>What, and why</th>
        <th class="w-24">Place</th>
        <th class="w-28 text-right!">Opened</th>
        <th class="w-24 text-right!">Lasted</th>
        <th class="w-20 text-right!">In {span}</th>
        <th class="w-28">Who</th>
      </tr>
    </thead>
    <tbody>
      {#each data.rows as row (row.id)}
        <tr data-row data-testid="alert-item">
          <td>
            {#if data.mayOperate && row.clearedAtMs === null}
              <Checkbox
                aria-label="Mark {row.title}"
                defaultChecked={marked.has(row.id)}
                onchange={() => (marked = toggled(marked, row.id))}
              />
            {/if}
          </td>
          <td
            ><Glyph
              state={row.glyph}
              label={row.clearedAtMs === null ? row.glyph : `cleared, was ${row.severity}`}
            /></td
          >
          <td>
            <a class="font-[620] hover:underline" href="/alerts/{row.id}">{row.title}</a>
            {#if row.flaps > 0}<span class="text-warn ml-1">flaps, {row.flaps} times</span>{/if}
            <p class="text-ink-2 text-xs">
              {row.reason}
              {#if row.consequence !== ''}<span class="text-ink">{row.consequence}</span>{/if}
              {#if row.causePath !== null}<span class="text-ink-3">{row.causePath}.</span>{/if}
              {#if row.rule !== null}<Link class="text-ink-3" href={set('rule', row.ruleKey)}>{row.rule}</Link
                >{/if}
            </p>
            {#if row.followOns.length > 0}
              <Button
                look="link"
                class="text-ink-2 text-xs"
                data-fold
                aria-expanded={unfolded.has(row.id)}
                onclick={() => (unfolded = toggled(unfolded, row.id))}
                >{unfolded.has(row.id) ? 'Fold' : 'Unfold'} what follows, {row.followOns.length}</Button
              >
              {#if unfolded.has(row.id)}
                <ul class="border-rule mt-1 border-l-2 pl-2.5" data-testid="follow-ons">
                  {#each row.followOns as { id, title, path, isCleared } (id)}
                    <li class="py-0.5">
                      <a class="hover:underline" href="/alerts/{id}">{title}</a>
                      <span class="text-ink-2 text-xs">{path}{isCleared ? '; cleared' : ''}</span>
                    </li>
                  {/each}
                </ul>
              {/if}
            {/if}
          </td>
          <td
            >{#if row.place !== null}<span class="place">{row.place}</span>{/if}</td
          >
          <td class="text-right whitespace-nowrap">{formatMoment(row.openedAtMs, live.nowMs, timeZone)}</td>
          <td class="text-right whitespace-nowrap"
            >{formatElapsed(row.clearedAtMs === null ? live.nowMs - row.openedAtMs : row.lastedMs)}</td
          >
          <td class="text-right">{row.times > 1 ? `${row.times} times` : 'once'}</td>
          <td>{row.isQuiet ? 'quiet' : (row.takenBy ?? '–')}</td>
        </tr>
      {:else}
        <tr><td colspan="8" class="text-ink-2 text-xs">No alert is like that.</td></tr>
      {/each}
    </tbody>
  </Table>
  {#if data.next !== null}
    <p class="mt-2">
      <Link
        href={`?${new URLSearchParams([...page.url.searchParams].filter(([name]) => name !== 'before').concat([['before', String(data.next)]]))}`}
        >Older</Link
      >
    </p>
  {/if}
</Panel>
