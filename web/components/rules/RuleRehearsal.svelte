<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import Table from '../ui/Table.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import { onDestroy, untrack } from 'svelte'
  import {
    alwaysBeyond,
    formatQuantity,
    lineOf,
    rehearsalSentence,
    rehearsedWeeks,
    type Rule,
    type RuleFields,
    type Severity,
    type Stretch,
  } from '#core/rules'
  import { formatElapsed, formatMoment, formatNumber } from '#core/units'
  import { Rehearsal } from '$lib/client/rehearsal.svelte'
  import LineCurve from './LineCurve.svelte'

  /** A rule run over what is stored, before it is saved. */
  let {
    rule,
    fields,
    insteadOf,
    timeZone,
    setLine,
  }: {
    rule: Rule | null
    fields: RuleFields
    insteadOf: number | null
    timeZone: string
    setLine: (severity: Severity, at: number) => void
  } = $props()

  const rehearsal = new Rehearsal()
  onDestroy(() => void rehearsal.cancel())
  let days = $state(30)
  let wished = $state<number | null>(2)
  let chosen = $state<number | null>(null)
  let rehearsed = $state('')
  const asked = $derived(JSON.stringify([fields, days]))
  const isStale = $derived(rehearsal.state === 'done' && rehearsed !== asked)
  const result = $derived(rehearsal.result)
  const plural = (count: number, one: string): string =>
    `${formatNumber(count, 0)} ${one}${count === 1 ? '' : 's'}`

  async function run(): Promise<void> {
    rehearsed = asked
    await rehearsal.start({
      fields,
      insteadOf,
      days,
      wished: wished === null || Number.isNaN(wished) ? null : wished,
    })
  }

  const weeks = $derived(result === null ? 1 : rehearsedWeeks(result))
  const sentence = $derived(result === null ? '' : rehearsalSentence(result))
  const always = $derived(result === null ? [] : alwaysBeyond(result))

  // The curve of the one that is looked at.
  const seriesId = $derived(chosen ?? result?.subjects[0]?.seriesId ?? null)
  let curve = $state.raw<{
    fromMs: number
    toMs: number
    points: readonly (readonly [number, number])[]
  } | null>(null)
  $effect(() => {
    const id = seriesId
    const span = untrack(() => days)
    if (id === null) return
    const stop = new AbortController()
    fetch(`/alerts/rules/curve?series=${id}&days=${span}`, { signal: stop.signal })
      .then((reply) => (reply.ok ? reply.json() : null))
      .then((body) => (curve = body))
      .catch(() => undefined)
    return () => stop.abort()
  })
  const level = $derived(rule?.kind === 'level' && rule.of.with === null ? rule : null)
  const ownStretches = $derived<readonly Stretch[]>(
    result?.stretches.filter((each) => each.seriesId === seriesId) ?? [],
  )
  const peak = $derived(Math.max(1, ...(result?.byHour ?? [])))

  // How many alerts each line would raise, as steps.
  const search = $derived(result?.lines ?? null)
  const most = $derived(Math.max(1, ...(search?.counts.map(({ alerts }) => alerts) ?? [])))
  const now = $derived(
    level === null || search === null ? null : (lineOf(level, search.severity)?.at ?? null),
  )
  const atNow = $derived(
    search === null || now === null
      ? null
      : search.counts.reduce((best, each) =>
          Math.abs(each.at - now) < Math.abs(best.at - now) ? each : best,
        ),
  )
</script>

<Panel
  title="Rehearsal"
  note="what it would have done on what is stored, before it is saved"
  aria-label="Rehearsal"
  data-testid="rehearsal"
>
  <div class="flex flex-wrap items-end gap-2">
    <Input label="Days" class="w-20" type="number" min="1" max="366" bind:value={days} />
    <Input label="Acceptable alerts a week" class="w-24" type="number" min="0" bind:value={wished} />
    {#if rehearsal.state === 'running'}
      <Button type="button" onclick={() => void rehearsal.cancel()}>Stop</Button>
      <div
        class="border-rule h-2 w-60 self-center border"
        role="progressbar"
        aria-label="Rehearsal"
        aria-valuenow={Math.round(rehearsal.done * 100)}
      >
        <div class="bg-accent h-full" style:width="{rehearsal.done * 100}%"></div>
      </div>
      <span class="text-ink-2 self-center text-xs">{Math.round(rehearsal.done * 100)} %</span>
    {:else}
      <Button look="strong" type="button" disabled={rule === null} onclick={() => void run()}>Rehearse</Button
      >
    {/if}
  </div>
  {#if rehearsal.problem !== null}<p class="text-crit mt-2" role="alert">{rehearsal.problem}</p>{/if}
  {#if result !== null}
    <p class="mt-3 text-[15px] font-[560]" role="status" data-testid="rehearsed">{sentence}</p>
    {#if isStale}<p class="text-warn mt-1">The rule is another by now: rehearse it again.</p>{/if}
    <p class="text-ink-2 text-xs">
      {formatNumber(result.readings, 0)} stored readings, {formatNumber(
        (result.series * (result.toMs - (result.firstMs ?? result.toMs))) /
          Math.max(1, result.readings) /
          60_000,
        1,
      )} min apart on average, gone through in {formatNumber(result.tookMs / 1000, 1)} s. Where live readings are
      closer, a rule that counts them holds sooner than here.
    </p>
    {#if curve !== null && level !== null && curve.points.length > 1}
      <div class="mt-3">
        <p class="text-ink-2 text-xs">
          {result.subjects.find((each) => each.seriesId === seriesId)?.name ?? 'Stored readings'}; drag a
          line, or move it by the arrow keys
        </p>
        <LineCurve
          points={curve.points}
          fromMs={curve.fromMs}
          toMs={curve.toMs}
          of={level.of}
          lines={level.lines}
          stretches={ownStretches}
          {timeZone}
          move={setLine}
        />
      </div>
    {/if}
    <div class="mt-3 grid grid-cols-2 gap-6">
      {#if search !== null && level !== null && atNow !== null && now !== null}
        <div>
          <p class="text-ink-2 text-xs">
            Alerts at each {search.severity} line: about
            <b class="text-ink">{atNow.alerts}</b> at {formatQuantity(level.of, now)}
          </p>
          <svg
            viewBox="0 0 300 84"
            class="w-full"
            role="img"
            aria-label="Alerts for each line, {most} at most"
            preserveAspectRatio="none"
          >
            {#each [search.counts.map( ({ at, alerts }, index) => ({ at, x: (index / Math.max(1, search.counts.length - 1)) * 300, h: Math.sqrt(alerts / most) * 76 }) )] as bars (bars)}
              <path
                d="M0 80{bars
                  .map((bar) => `L${bar.x.toFixed(1)} ${(80 - bar.h).toFixed(1)}`)
                  .join('')}L300 80Z"
                class="fill-unit stroke-ink-3"
                stroke-width="0.8"
              />
              {@const here = bars.find((bar) => bar.at === atNow.at)}
              {#if here !== undefined}
                <path d="M{here.x} 2V80" class="stroke-warn" stroke-width="1.5" />
              {/if}
            {/each}
          </svg>
          <p class="text-ink-2 flex justify-between text-xs">
            <span>{formatQuantity(level.of, search.counts[0]!.at)}</span>
            <span>{formatQuantity(level.of, search.counts.at(-1)!.at)}</span>
          </p>
          {#if always.length > 0}
            <p class="text-ink-2 mt-1 text-xs" data-testid="proposed">
              How many it raises says little here: it is crossed all the time.
            </p>
          {:else if wished !== null && atNow.alerts <= wished * weeks}
            <p class="text-ink-2 mt-1 text-xs" data-testid="proposed">
              That is no more than {wished} a week already.
            </p>
          {:else if search.proposed !== null}
            {@const proposed = search.proposed}
            <p class="mt-1" data-testid="proposed">
              For {wished} a week: {level.direction}
              <b>{formatQuantity(level.of, proposed.at)}</b>, which raises {plural(proposed.alerts, 'alert')}.
              <Button class="ml-1" type="button" onclick={() => setLine(search.severity, proposed.at)}
                >Use this line</Button
              >
            </p>
          {:else if wished !== null}
            <p class="text-ink-2 mt-1 text-xs">No line raises as few as {wished} a week.</p>
          {/if}
        </div>
      {/if}
      <div>
        <p class="text-ink-2 text-xs">When they begin, by hour of day</p>
        <svg
          viewBox="0 0 300 84"
          class="w-full"
          role="img"
          aria-label="Alerts by hour of day, {peak} at most"
        >
          {#each result.byHour as count, hour (hour)}
            <rect
              x={hour * 12.5 + 1}
              y={80 - (count / peak) * 70}
              width="10.5"
              height={(count / peak) * 70}
              class="fill-ink-3"><title>{hour}:00 – {count}</title></rect
            >
          {/each}
          <path d="M0 80H300" class="stroke-rule" />
        </svg>
        <p class="text-ink-2 flex justify-between text-xs">
          <span>0:00</span><span>6:00</span><span>12:00</span><span>18:00</span><span>24:00</span>
        </p>
      </div>
    </div>
    {#if result.subjects.length > 0}
      <Table class="mt-3">
        <thead
          ><tr
            ><th>On what</th><th class="text-right!">Alerts</th><th class="text-right!">Critical</th><th
              class="text-right!">Longest</th
            ><th>Last began</th></tr
          ></thead
        >
        <tbody>
          {#each result.subjects.slice(0, 12) as subject (subject.seriesId)}
            {@const last = result.stretches.find((each) => each.seriesId === subject.seriesId)}
            <tr data-row>
              <td>
                <Button
                  look="link"
                  type="button"
                  class={subject.seriesId === seriesId ? 'font-bold' : ''}
                  aria-pressed={subject.seriesId === seriesId}
                  onclick={() => (chosen = subject.seriesId)}>{subject.name}</Button
                >
              </td>
              <td class="text-right">{subject.alerts}</td>
              <td class="text-right">{subject.critical === 0 ? '–' : subject.critical}</td>
              <td class="text-right">{formatElapsed(subject.longestMs)}</td>
              <td class="text-ink-2 text-xs"
                >{last === undefined ? '' : formatMoment(last.fromMs, result.toMs, timeZone)}</td
              >
            </tr>
          {/each}
        </tbody>
      </Table>
      <p class="text-ink-2 mt-1 text-xs">
        {result.subjects.length > 12
          ? `${result.subjects.length - 12} more raise fewer; `
          : ''}{result.silent} raise nothing.
      </p>
    {/if}
  {/if}
</Panel>
