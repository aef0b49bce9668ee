<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import DateTimeInput from '$lib/components/ui/DateTimeInput.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { untrack } from 'svelte'
  import { REPEATS } from '#core/alerts'
  import { MEASURE_GROUPS, measureKeys, measureOf } from '#core/catalogue'
  import { formatElapsed, formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import ScopeField from '$lib/components/rules/ScopeField.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const moment = (atMs: number): string => formatMoment(atMs, live.nowMs, data.shell.site.timeZone)
  const now = $derived(data.quiets.filter((quiet) => quiet.holds))
  const coming = $derived(data.quiets.filter((quiet) => !quiet.holds && quiet.time !== null))
  const isLost = (quiet: (typeof data.quiets)[number]): boolean => quiet.isBroken && quiet.endedAtMs === null
  const lost = $derived(data.quiets.filter(isLost))
  const over = $derived(data.quiets.filter((quiet) => quiet.time === null && !isLost(quiet)).toReversed())
  const kept = $derived(now.reduce((sum, quiet) => sum + quiet.alerts.length, 0))
  const quieted = $derived(now.filter(({ what }) => what === 'quiet').length)
  const accepted = $derived(now.length - quieted)
  const soon = $derived(
    now.filter(
      (quiet) =>
        quiet.time?.toMs != null && quiet.time.toMs - live.nowMs < 3_600_000 && quiet.repeats === null,
    ),
  )
  const count = (many: number, one: string): string => `${many} ${one}${many === 1 ? '' : 's'}`
  const sentence = $derived(
    now.length === 0
      ? `Nothing is quiet${coming.length === 0 ? '' : `; ${count(coming.length, 'time')} to come`}.`
      : `${[
          ...(quieted === 0 ? [] : [count(quieted, 'quiet')]),
          ...(accepted === 0 ? [] : [count(accepted, 'accepted state')]),
        ].join(
          ' and ',
        )} ${quieted + accepted === 1 ? 'keeps' : 'keep'} ${count(kept, 'alert')} from telling${soon.length === 0 ? '' : `; ${soon.length} of them ${soon.length === 1 ? 'ends' : 'end'} within the hour`}.`,
  )
  let whereKind = $state(untrack(() => data.asked.whereKind))
  let whereValue = $state(untrack(() => data.asked.whereValue))
  let repeats = $state('')
  let measure = $state('')
  let isOff = $state('')
  const WHATS = $derived([
    ['rack', 'a rack'],
    ['gear', 'a gear'],
    ['room', 'a room'],
    ['group', 'a group'],
    ['cluster', 'a cluster'],
    ['tag', 'a tag'],
    ...(data.mayAdminister ? [['everywhere', 'everything'] as const] : []),
  ] as const)
  const preview = $derived(data.preview)
  /** What falls silent is looked up anew whenever it is chosen otherwise. */
  function lookAgain(event: Event): void {
    const field = event.target as HTMLInputElement | HTMLSelectElement
    if (!['whereKind', 'whereValue', 'measure', 'isOff', 'named'].includes(field.name) || field.form === null)
      return
    const chosen = new FormData(field.form)
    const names = ['whereKind', 'whereValue', 'measure', 'isOff']
    const asked = new URLSearchParams([
      ...names.map((name) => [name, String(chosen.get(name) ?? '')]),
      ...(field.name === 'named' ? chosen.getAll('named').map((id) => ['named', String(id)]) : []),
    ])
    void goto(`?${asked}`, { keepFocus: true, noScroll: true, replaceState: true })
  }
  /** Why the last try was refused: looking anew at what would fall silent does not take it away. */
  let refusal = $state<string | null>(null)
  $effect(() => {
    if (form?.message != null) refusal = form.message
  })
  const refused = $derived(form?.message ?? refusal)
  const keys = measureKeys()
  const SAID_AS = { accept: 'accepted', off: 'expected off', quiet: 'quiet' } as const
</script>

<svelte:head><title>Quiet and accepted · {data.shell.site.name}</title></svelte:head>

{#snippet row(quiet: (typeof data.quiets)[number])}
  <li
    class="border-rule-2 grid grid-cols-[18px_minmax(0,1fr)_220px_96px] gap-2.5 border-t py-2"
    data-row
    data-testid="quiet-row"
  >
    <Glyph state={quiet.holds ? 'quiet' : 'well'} label={quiet.holds ? quiet.what : 'not now'} />
    <div>
      <p>
        <b class="font-[620]">{quiet.scopeWords}</b>
        <span class="text-ink-2 text-xs"
          >{quiet.scopeWords.endsWith('expected off') ? '' : SAID_AS[quiet.what]} by {quiet.who}: {quiet.reason}</span
        >
      </p>
      {#if quiet.alerts.length > 0}
        <p class="text-ink-2 text-xs">
          Keeps from telling: {#each quiet.alerts.slice(0, 5) as { id, title }, index (id)}{index === 0
              ? ''
              : '; '}<Link href="/alerts/{id}">{title}</Link>{/each}{quiet.alerts.length > 5
            ? ` and ${quiet.alerts.length - 5} more`
            : ''}
        </p>
      {/if}
      {#if quiet.endedAtMs !== null}
        <p class="text-ink-2 text-xs">
          Ended {moment(quiet.endedAtMs)}{quiet.endedBy === null ? '' : ` by ${quiet.endedBy}`}. {quiet.endedWhy ??
            ''}
        </p>
      {/if}
    </div>
    <div class="text-ink-2 text-xs">
      {#if quiet.time !== null}
        {quiet.holds ? 'since' : 'from'}
        {moment(quiet.time.fromMs)}
        {quiet.time.toMs === null
          ? quiet.what === 'accept'
            ? 'until it changes'
            : 'until somebody ends it'
          : `to ${moment(quiet.time.toMs)}`}{quiet.holds && quiet.time.toMs !== null
          ? `, another ${formatElapsed(quiet.time.toMs - live.nowMs)}`
          : ''}
        {#if quiet.repeatWords !== null}<br />{quiet.repeatWords}{/if}
      {:else if isLost(quiet)}
        <span class="text-warn">{quiet.repeatWords}: when that is cannot be said</span>
      {/if}
    </div>
    <div class="text-right">
      {#if data.mayOperate && quiet.endedAtMs === null && (quiet.time !== null || quiet.isBroken)}
        <Form action="?/end">
          <input type="hidden" name="id" value={quiet.id} />
          <Button>End now</Button>
        </Form>
      {/if}
    </div>
  </li>
{/snippet}

<h1 data-testid="sentence">{sentence}</h1>
<AlertTabs />
<Panel title="Now" note="recorded and shown as always; nobody is notified">
  <ul>
    {#each now as quiet (quiet.id)}{@render row(quiet)}{:else}<li class="text-ink-2 text-xs">
        Everything that happens is told.
      </li>{/each}
  </ul>
</Panel>
{#if lost.length > 0}
  <Panel title="Not in force" note="make it anew, by what the form offers">
    <ul>
      {#each lost as quiet (quiet.id)}{@render row(quiet)}{/each}
    </ul>
  </Panel>
{/if}
{#if coming.length > 0}
  <Panel title="Upcoming">
    <ul>
      {#each coming as quiet (quiet.id)}{@render row(quiet)}{/each}
    </ul>
  </Panel>
{/if}
{#if data.mayOperate}
  <Panel title="Add quiet period" note="a window of maintenance, or a known fault" aria-label="New">
    {#if refused !== null}<p class="text-crit mb-2" role="alert">{refused}</p>{/if}
    <Form action="?/add" class="grid gap-3" onchange={lookAgain} onsubmit={() => (refusal = null)}>
      <div class="flex flex-wrap items-end gap-2.5">
        <ScopeField
          label="What"
          kinds={WHATS}
          places={data.options}
          bind:kind={whereKind}
          bind:value={whereValue}
        />
        <Select
          label="How"
          name="isOff"
          bind:value={isOff}
          options={[
            { value: '', label: 'quiet' },
            { value: 'yes', label: 'expected off' },
          ]}
        />
        {#if isOff === ''}
          <Combobox
            label="Measure"
            class="w-48"
            name="measure"
            bind:value={measure}
            options={[
              { value: '', label: 'all of it' },
              ...MEASURE_GROUPS.flatMap((group) => [
                ...keys
                  .filter((key) => measureOf(key).group === group)
                  .map((key) => ({ value: key, label: measureOf(key).label, group: group })),
              ]),
            ]}
          />
        {/if}
        <DateTimeInput label="From" name="from" defaultValue={data.nowLocal} />
        <DateTimeInput label="Until" name="until" />
        <Select
          label="Repeat"
          name="repeats"
          bind:value={repeats}
          options={[
            { value: '', label: 'never' },
            ...Object.entries(REPEATS).map(([rule, words]) => ({ value: rule, label: words })),
          ]}
        />
      </div>
      {#if preview !== null}
        <div class="border-rule grid gap-2 border-l-2 pl-3" data-testid="falls-silent" aria-live="polite">
          <p>
            {#if preview.isEverything}
              <b class="text-crit font-[620]">Everything falls silent: all {preview.silent} gear.</b>
              Nobody is notified of anything, for four hours at most.
            {:else if preview.silent === 0}
              <b class="font-[620]">Nothing falls silent.</b>
            {:else}
              <b class="font-[620]">{preview.silent} gear fall silent:</b>
              {preview.names.join(', ')}{preview.silent > preview.names.length
                ? ` and ${preview.silent - preview.names.length} more`
                : ''}.
            {/if}
          </p>
          {#if preview.openCount > 0}
            <p>
              <b class={['font-[620]', preview.criticalCount > 0 && 'text-crit']}
                >{count(preview.openCount, 'open alert')} there would be told no more{preview.criticalCount ===
                0
                  ? ''
                  : `, ${preview.criticalCount} of them critical`}:</b
              >
              {#each preview.open as { id, title }, index (id)}{index === 0 ? '' : '; '}<Link
                  href="/alerts/{id}">{title}</Link
                >{/each}{preview.openCount > preview.open.length
                ? ` and ${preview.openCount - preview.open.length} more`
                : ''}
            </p>
          {:else if preview.silent > 0}
            <p class="text-ink-2 text-xs">Nothing is open there now.</p>
          {/if}
          {#if preview.shared.length > 0}
            <fieldset class="grid gap-1">
              <legend class="text-ink-2 text-xs"
                >Stays loud, because gear elsewhere depends on it. Tick what is to be quiet too.</legend
              >
              {#each preview.shared as { gearId, words, isNamed } (gearId)}
                <Checkbox
                  label="{words}{isNamed ? ': falls silent' : ''}"
                  name="named"
                  value={String(gearId)}
                  defaultChecked={isNamed}
                />
              {/each}
            </fieldset>
          {/if}
          {#if preview.isEverything}
            <Checkbox
              label="I mean everything: nobody is notified of a fire, an outage, or a lost host until it ends."
              name="sure"
              value="yes"
            />
          {/if}
        </div>
      {/if}
      <div class="flex flex-wrap items-end gap-2.5">
        <Input label="Reason" class="w-96" name="reason" />
        <Button look="strong">{isOff === '' ? 'Quiet' : 'Expect it off'}</Button>
      </div>
    </Form>
  </Panel>
{/if}
{#if over.length > 0}
  <Panel title="Ended" note="within 30 days">
    <ul>
      {#each over as quiet (quiet.id)}{@render row(quiet)}{/each}
    </ul>
  </Panel>
{/if}
