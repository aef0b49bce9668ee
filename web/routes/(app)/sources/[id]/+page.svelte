<script lang="ts">
  import Confirm from '$lib/components/ui/Confirm.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { untrack } from 'svelte'
  import type { MeasureKey } from '#core/catalogue'
  import { costOfAll, type MappingLine, type RegisterMap, type Slower, SLOWER_CHOICES } from '#core/sources'
  import { formatAgo, formatBytes, formatElapsed, formatMoment, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { checkSource } from '$lib/client/requests'
  import Fold from '$lib/components/ui/Fold.svelte'
  import MetricsMapping from '$lib/components/sources/MetricsMapping.svelte'
  import PickTree from '$lib/components/sources/PickTree.svelte'
  import RegisterMapping from '$lib/components/sources/RegisterMapping.svelte'
  import Stages from '$lib/components/sources/Stages.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const source = $derived(data.source)
  const check = $derived(data.check)
  const parts = $derived(
    data.tree.reduce((sum, gear) => sum + gear.groups.reduce((n, group) => n + group.parts.length, 0), 0),
  )
  const listed = (names: readonly string[]): string =>
    names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ')
  const WORDS = {
    well: 'is heard',
    starting: 'has not been heard yet',
    failing: 'failed at the last try',
    silent: 'is silent',
  } as const
  const sentence = $derived.by(() => {
    const isOne = data.waiting.length === 1
    const waiting =
      data.waiting.length === 0
        ? ''
        : `; ${listed(data.waiting)} ${isOne ? 'is new and waits' : 'are new and wait'} for your word`
    const gone =
      data.gone.length === 0
        ? ''
        : `; ${listed(data.gone)} ${data.gone.length === 1 ? 'is' : 'are'} not reported any more`
    return `${source.name} ${WORDS[source.state]}${waiting}${gone}.`
  })

  const keysLeft = (): string[] =>
    data.tree
      .flatMap(({ item, groups }) => [item, ...groups.flatMap((group) => group.parts)])
      .filter((item) => !item.isWatched)
      .map((item) => `${item.gearKey}\n${item.partKey ?? ''}`)
  // Until something is picked by hand, what is shown is what is kept.
  let own = $state<ReadonlySet<string> | null>(null)
  const left = $derived(own ?? new Set(keysLeft()))
  let ownSlower = $state<Slower | null>(null)
  const slower = $derived<Slower>(ownSlower ?? source.slower)
  const cost = $derived(
    costOfAll(
      source.measures.flatMap(({ key, count }) =>
        Array.from({ length: count }, () => Math.max(source.intervalSeconds, slower[key] ?? 0)),
      ),
    ),
  )
  function setSlower(key: MeasureKey, seconds: number): void {
    const { [key]: _, ...rest } = slower
    ownSlower = seconds === 0 ? rest : { ...rest, [key]: seconds }
  }

  let asked = $state('')
  async function readNow(): Promise<void> {
    asked = 'asking…'
    const before = source.lastHeardMs
    const done = await checkSource(source.id)
    asked = done.kind === 'refused' ? done.message : before === source.lastHeardMs ? 'asked' : ''
  }
  $effect(() => {
    if (source.lastHeardMs !== null) untrack(() => (asked = ''))
  })
</script>

<svelte:head><title>{source.name} · {data.shell.site.name}</title></svelte:head>

<nav aria-label="Above"><Link class="text-ink-2 text-xs" href="/sources">Sources</Link></nav>
<h1>{sentence}</h1>
{#if source.failure !== null}<p class="text-blind" data-testid="failure">{source.failure}</p>{/if}

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[330px_minmax(0,1fr)]">
  <div class="grid gap-3.5">
    <Panel title="Reading" id="how">
      <dl class="grid grid-cols-[92px_minmax(0,1fr)] gap-x-2 gap-y-1">
        <dt class="text-ink-2 text-xs">Speaks</dt>
        <dd>{source.protocol}</dd>
        <dt class="text-ink-2 text-xs">Address</dt>
        <dd class="font-mono text-[11px] break-all">{source.address}</dd>
        {#if source.credentialName !== null}
          <dt class="text-ink-2 text-xs">Credential</dt>
          <dd>{source.credentialName}</dd>
        {/if}
        {#if source.mapping !== null}
          <dt class="text-ink-2 text-xs">Mapping</dt>
          <dd>
            {source.mapping.name}{source.mapping.isShipped ? ', came along' : ''}{source.mapping.others > 0
              ? `; ${source.mapping.others} other ${source.mapping.others === 1 ? 'source goes' : 'sources go'} by it`
              : ''}
            {#if data.mayConnect && check?.told == null}
              <Form action="?/check" class="inline">
                <Button look="link">{source.mapping.isShipped ? 'View map' : 'Edit map'}</Button>
              </Form>
            {/if}
          </dd>
        {/if}
        <dt class="text-ink-2 text-xs">Last heard</dt>
        <dd>
          {formatAgo(source.lastHeardMs, live.nowMs)}{source.lastDurationMs === null
            ? ''
            : `, took ${source.lastDurationMs} ms`}
        </dd>
        <dt class="text-ink-2 text-xs">Comes to</dt>
        <dd>
          {source.series} series, {formatNumber(cost.readingsADay, 0)} readings a day, about {formatBytes(
            cost.bytesAYear,
          )} in a year
        </dd>
      </dl>
      <div class="mt-2 flex flex-wrap items-center gap-2">
        {#if data.mayCheck && source.isPolled}<Button onclick={readNow}>Read now</Button>{/if}
        {#if data.mayConnect && source.isPolled}
          <Form action="?/check">
            <Button>Check step by step</Button>
          </Form>
        {/if}
        <span class="text-ink-2 text-xs" role="status">{asked}</span>
      </div>
    </Panel>
    {#if check !== null}
      <Panel title="Check" note={formatMoment(check.atMs, live.nowMs, data.shell.site.timeZone)} id="checked">
        <Stages stages={check.stages} isOver={check.isOver} />
      </Panel>
    {/if}
    {#if data.mayConnect}
      <Panel title="Change" id="change">
        {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
        <Form
          action="?/change"
          submit={() =>
            async ({ update }) => {
              await update({ reset: false })
              ownSlower = null
            }}
          class="grid gap-2"
        >
          <Input label="Name" name="name" required maxlength="64" defaultValue={source.name} />
          <Input
            label="Interval (s)"
            name="intervalSeconds"
            inputmode="numeric"
            defaultValue={source.intervalSeconds}
          />
          <Select
            label="New items"
            name="newItems"
            options={[
              { value: 'take', label: 'is watched at once' },
              { value: 'ask', label: 'waits until somebody says' },
            ]}
          />
          <input type="hidden" name="slower" value={JSON.stringify(slower)} />
          {#if source.isPolled && source.measures.length > 0}
            <Fold titleClass="text-ink-2 text-xs" opens={Object.keys(slower).length > 0}>
              {#snippet title()}Measures that are kept less often{/snippet}
              <ul class="mt-1 max-h-64 overflow-y-auto">
                {#each source.measures as { key, label, count } (key)}
                  <li
                    class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-2 border-t py-0.5"
                  >
                    <span class="min-w-0 truncate"
                      >{label} <span class="text-ink-2 text-xs">{count} series</span></span
                    >
                    <Select
                      class="py-0.5!"
                      aria-label="How often {label} is kept"
                      defaultValue={String(slower[key] ?? 0)}
                      onchange={(value) => setSlower(key, Number(value))}
                      options={[
                        { value: '0', label: 'each time' },
                        ...SLOWER_CHOICES.map((seconds) => ({
                          value: String(seconds),
                          label: `each ${formatElapsed(seconds * 1000)}`,
                        })),
                      ]}
                    />
                  </li>
                {/each}
              </ul>
            </Fold>
          {/if}
          <Button look="strong" class="justify-self-start">Save</Button>
        </Form>
        {#if source.isPolled}
          <Form action="?/like" class="border-rule-2 mt-3 flex items-end gap-2 border-t pt-2">
            <Input label="Duplicate with address" name="address" required placeholder={source.address} />
            <Button>Check</Button>
          </Form>
        {/if}
        <Form action="?/remove" class="border-rule-2 mt-3 border-t pt-2">
          <Confirm
            label="Remove"
            question="Remove {source.name}?"
            consequence="Its readings and alerts are deleted with it. Its gear stays."
            act="Remove source"
          />
        </Form>
      </Panel>
    {/if}
  </div>
  <div class="grid gap-3.5">
    {#if data.mayConnect && check?.told != null}
      {#key check.id}
        {#if check.told.kind === 'series'}
          <MetricsMapping
            checkId={check.id}
            address={source.address}
            series={check.told.series}
            kept={(check.settings['map'] ?? []) as MappingLine[]}
            nowMs={check.atMs}
          />
        {:else}
          <RegisterMapping
            checkId={check.id}
            blocks={check.told.blocks}
            refused={check.told.refused ?? null}
            kept={(check.settings['map'] ?? null) as RegisterMap | null}
          />
        {/if}
      {/key}
    {/if}
    <Panel
      title="Gear and parts"
      note={`${data.tree.length} gear, ${parts} parts${data.left === 0 ? '' : `, ${data.left} left out`}; values of ${formatAgo(source.lastHeardMs, live.nowMs)}`}
      id="shows"
    >
      {#if data.tree.length === 0}
        <p class="text-ink-2 text-xs">Nothing yet. What it has appears with its first reading.</p>
      {:else}
        {#if data.mayConnect}
          <Form
            action="?/pick"
            class="mb-2 flex items-center gap-3"
            submit={() =>
              async ({ update }) => {
                await update()
                own = null
              }}
          >
            <input type="hidden" name="left" value={JSON.stringify([...left])} />
            <Button look="strong" disabled={own === null && data.waiting.length === 0}
              >{own === null && data.waiting.length > 0 ? 'Leave out what waits' : 'Watch selected'}</Button
            >
            <span class="text-ink-2 text-xs">What is left out keeps what was read of it so far.</span>
          </Form>
        {/if}
        <PickTree tree={data.tree} {left} onLeft={(next) => (own = next)} />
      {/if}
    </Panel>
  </div>
</div>
