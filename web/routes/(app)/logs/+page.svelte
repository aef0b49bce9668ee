<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Split from '$lib/components/ui/Split.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import LinesOverTime from '$lib/components/logs/LinesOverTime.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { formatElapsed, formatMoment, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const total = $derived(data.rate.reduce((sum, { lines }) => sum + lines, 0))
  const grave = $derived(data.rate.reduce((sum, each) => sum + each.grave, 0))
  const span = $derived(formatElapsed(data.filter.toMs - data.filter.fromMs))
  const count = (many: number, one: string): string =>
    `${formatNumber(many, 0)} ${one}${many === 1 ? '' : 's'}`
  const sentence = $derived(
    total === 0
      ? `Nothing ${data.filter.query === '' ? 'was said' : 'like that was said'} within ${span}.`
      : `${count(total, 'line')} within ${span}${grave === 0 ? ', no errors' : `, ${formatNumber(grave, 0)} of them errors or worse`}.`,
  )
  const GRAVE = [
    ['', 'any'],
    ['5', 'notice'],
    ['4', 'warning'],
    ['3', 'error'],
    ['2', 'critical'],
  ] as const

  function set(name: string, value: string): string {
    const next = new URL(page.url)
    next.searchParams.delete('before')
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    return next.search === '' ? next.pathname : next.search
  }
  let typing: ReturnType<typeof setTimeout> | undefined
  function search(words: string): void {
    clearTimeout(typing)
    typing = setTimeout(
      () => void goto(set('q', words), { keepFocus: true, replaceState: true, noScroll: true }),
      250,
    )
  }
  const zoomed = (fromMs: number, toMs: number): string => {
    const next = new URL(page.url)
    next.searchParams.delete('w')
    next.searchParams.set('from', String(fromMs))
    next.searchParams.set('to', String(toMs))
    return next.search
  }
  const choose = (name: string) => (value: string) =>
    void goto(set(name, value), { keepFocus: true, noScroll: true })
  const gearChoices = $derived([
    { value: '', label: 'any gear' },
    ...data.gear.map(({ id, name }) => ({ value: String(id), label: name })),
  ])
  const programChoices = $derived([
    { value: '', label: 'any program' },
    ...[
      ...new Set([
        ...data.programs.map(({ name }) => name),
        ...(data.filter.app === null ? [] : [data.filter.app]),
      ]),
    ]
      .sort()
      .map((name) => ({ value: name, label: name })),
  ])
</script>

<svelte:head><title>Logs · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">
  {sentence}
  {#if data.speakers[0] !== undefined}
    <span class="text-ink-2 font-[450]">Most came from {data.speakers[0].name}.</span>
  {/if}
</h1>
{#if data.refused !== null}
  <p class="text-warn">
    {count(data.refused.count, 'line')} could not be stored, the last at {formatMoment(
      data.refused.lastMs,
      live.nowMs,
      timeZone,
    )}; the log of the collector says why.
  </p>
{/if}
<div class="flex flex-wrap items-center gap-x-4 gap-y-2">
  <Input
    class="w-80"
    type="search"
    placeholder="Words, &quot;in a row&quot;, -without"
    aria-label="Search in what devices said"
    defaultValue={data.filter.query}
    oninput={(event) => search(event.currentTarget.value)}
  />
  <nav class="flex gap-3" aria-label="Severity at least">
    <span class="text-ink-2 text-xs">Severity at least</span>
    {#each GRAVE as [value, word] (value)}
      <a
        href={set('grave', value)}
        aria-current={(data.filter.atMost === 7 ? '' : String(data.filter.atMost)) === value
          ? 'true'
          : undefined}
        class="text-ink-2 aria-[current]:text-ink aria-[current]:border-ink border-b-2 border-transparent hover:underline aria-[current]:font-[620]"
        >{word}</a
      >
    {/each}
  </nav>
  <Combobox
    aria-label="Gear"
    class="w-44"
    options={gearChoices}
    defaultValue={String(data.filter.gearId ?? '')}
    onchange={choose('gear')}
  />
  <Select
    aria-label="Program"
    options={programChoices}
    defaultValue={data.filter.app ?? ''}
    onchange={choose('app')}
  />
  {#if data.mayAdminister && data.filter.query !== ''}
    <Button href="/alerts/rules/new?pattern={encodeURIComponent(data.filter.query)}" class="ml-auto"
      >Rule for lines like these</Button
    >
  {/if}
</div>

<LinesOverTime rate={data.rate} window={data.filter} nowMs={live.nowMs} {timeZone} {zoomed} />

<Split name="Lines and who sent them" share={78}>
  {#snippet first()}
    <Panel aria-label="Lines">
      <ul data-testid="log-lines">
        {#each data.lines as line (line.id)}
          <li
            class="border-rule-2 grid grid-cols-[16px_104px_64px_118px_minmax(0,1fr)] items-baseline gap-2 border-t py-0.5"
            data-row
            data-testid="log-line"
          >
            <span
              >{#if line.severity <= 4}<Glyph
                  state={line.severity <= 2 ? 'critical' : 'warning'}
                  label={line.word}
                />{/if}</span
            >
            <span class="text-ink-2 text-xs whitespace-nowrap"
              >{formatMoment(line.heardMs, live.nowMs, timeZone)}</span
            >
            <span class="text-ink-2 text-xs">{line.word}</span>
            <span class="truncate">
              {#if line.gearId !== null}<a class="hover:underline" href="/gear/{line.gearId}"
                  >{line.gearName}</a
                >{:else}<span class="text-ink-3">{line.host ?? line.address}</span>{/if}
            </span>
            <span class="min-w-0 break-words">
              {#if line.app !== null}<span class="text-ink-3">{line.app}:</span>{/if}
              {line.body}
              {#if line.times > 1}<b class="ml-1">{formatNumber(line.times, 0)} times</b>{/if}
              {#if line.kind === 'trap'}<span class="text-ink-3">(notification)</span>{/if}
            </span>
          </li>
        {:else}
          <li class="text-ink-2 text-xs">
            Nothing here. Devices are heard by syslog, and by SNMP notifications, at the collector's address.
          </li>
        {/each}
      </ul>
      {#if data.next !== null}
        <p class="mt-2">
          <Link
            href={`?${new URLSearchParams([...page.url.searchParams].filter(([name]) => name !== 'before').concat([['before', data.next]]))}`}
            >Older</Link
          >
        </p>
      {/if}
    </Panel>
  {/snippet}
  {#snippet second()}
    <div class="grid gap-3.5">
      <Panel title="Most lines from">
        <ul>
          {#each data.speakers as speaker (speaker.name)}
            <li class="border-rule-2 flex justify-between gap-2 border-t py-1">
              {#if speaker.gearId !== null}<a
                  class="truncate hover:underline"
                  href={set('gear', String(speaker.gearId))}>{speaker.name}</a
                >{:else}<span class="text-ink-3 truncate">{speaker.name}</span>{/if}
              <span class="text-ink-2 text-xs">{formatNumber(speaker.lines, 0)}</span>
            </li>
          {:else}<li class="text-ink-2 text-xs">Nobody.</li>{/each}
        </ul>
      </Panel>
      <Panel title="Programs">
        <ul>
          {#each data.programs.slice(0, 8) as program (program.name)}
            <li class="border-rule-2 flex justify-between gap-2 border-t py-1">
              <a
                class="truncate hover:underline"
                aria-current={program.name === data.filter.app ? 'true' : undefined}
                href={set('app', program.name === data.filter.app ? '' : program.name)}>{program.name}</a
              >
              <span class="text-ink-2 text-xs">{formatNumber(program.lines, 0)}</span>
            </li>
          {:else}<li class="text-ink-2 text-xs">None.</li>{/each}
        </ul>
      </Panel>
    </div>
  {/snippet}
</Split>
