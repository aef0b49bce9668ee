<script lang="ts">
  import { untrack } from 'svelte'
  import type { MeasureKey } from '#core/catalogue'
  import { costOfAll, type MappingLine, type RegisterMap, type Slower, SLOWER_CHOICES } from '#core/sources'
  import { formatAgo, formatBytes, formatElapsed, formatMoment, formatNumber } from '#core/units'
  import { enhance } from '$lib/client/forms'
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

<nav aria-label="Above"><a class="link muted" href="/sources">Sources</a></nav>
<h1>{sentence}</h1>
{#if source.failure !== null}<p class="text-blind" data-testid="failure">{source.failure}</p>{/if}

<div class="grid grid-cols-[330px_minmax(0,1fr)] items-start gap-4">
  <div class="grid gap-3.5">
    <section class="panel" aria-labelledby="how">
      <h2 class="panel-title" id="how">How it is read</h2>
      <dl class="grid grid-cols-[92px_minmax(0,1fr)] gap-x-2 gap-y-1">
        <dt class="muted">Speaks</dt>
        <dd>{source.protocol}</dd>
        <dt class="muted">Address</dt>
        <dd class="font-mono text-[11px] break-all">{source.address}</dd>
        {#if source.credentialName !== null}
          <dt class="muted">Credential</dt>
          <dd>{source.credentialName}</dd>
        {/if}
        {#if source.mapping !== null}
          <dt class="muted">Mapping</dt>
          <dd>
            {source.mapping.name}{source.mapping.isShipped ? ', came along' : ''}{source.mapping.others > 0
              ? `; ${source.mapping.others} other ${source.mapping.others === 1 ? 'source goes' : 'sources go'} by it`
              : ''}
            {#if data.mayConnect && check?.told == null}
              <form method="POST" action="?/check" use:enhance class="inline">
                <button class="link">{source.mapping.isShipped ? 'Look at it' : 'Change it'}</button>
              </form>
            {/if}
          </dd>
        {/if}
        <dt class="muted">Last heard</dt>
        <dd>
          {formatAgo(source.lastHeardMs, live.nowMs)}{source.lastDurationMs === null
            ? ''
            : `, took ${source.lastDurationMs} ms`}
        </dd>
        <dt class="muted">Comes to</dt>
        <dd>
          {source.series} series, {formatNumber(cost.readingsADay, 0)} readings a day, about {formatBytes(
            cost.bytesAYear,
          )} in a year
        </dd>
      </dl>
      <div class="mt-2 flex flex-wrap items-center gap-2">
        {#if data.mayCheck && source.isPolled}<button class="btn" onclick={readNow}>Read now</button>{/if}
        {#if data.mayConnect && source.isPolled}
          <form method="POST" action="?/check" use:enhance>
            <button class="btn">Check step by step</button>
          </form>
        {/if}
        <span class="muted" role="status">{asked}</span>
      </div>
    </section>
    {#if check !== null}
      <section class="panel" aria-labelledby="checked">
        <h2 class="panel-title" id="checked">
          The check <span>{formatMoment(check.atMs, live.nowMs, data.shell.site.timeZone)}</span>
        </h2>
        <Stages stages={check.stages} isOver={check.isOver} />
      </section>
    {/if}
    {#if data.mayConnect}
      <section class="panel" aria-labelledby="change">
        <h2 class="panel-title" id="change">Change</h2>
        {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
        <form
          method="POST"
          action="?/change"
          use:enhance={() =>
            async ({ update }) => {
              await update({ reset: false })
              ownSlower = null
            }}
          class="grid gap-2"
        >
          <label class="grid gap-0.5"
            >Name <input
              class="field"
              name="name"
              required
              maxlength="64"
              defaultValue={source.name}
            /></label
          >
          <label class="grid gap-0.5"
            >{source.isPolled ? 'Ask every, s' : 'Pushes every, s'}
            <input
              class="field"
              name="intervalSeconds"
              inputmode="numeric"
              defaultValue={source.intervalSeconds}
            /></label
          >
          <label class="grid gap-0.5">
            What appears later
            <select class="field" name="newItems">
              <option value="take" selected={source.newItems === 'take'}>is watched at once</option>
              <option value="ask" selected={source.newItems === 'ask'}>waits until somebody says</option>
            </select>
          </label>
          <input type="hidden" name="slower" value={JSON.stringify(slower)} />
          {#if source.isPolled && source.measures.length > 0}
            <Fold titleClass="muted" opens={Object.keys(slower).length > 0}>
              {#snippet title()}Measures that are kept less often{/snippet}
              <ul class="mt-1 max-h-64 overflow-y-auto">
                {#each source.measures as { key, label, count } (key)}
                  <li
                    class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-2 border-t py-0.5"
                  >
                    <span class="min-w-0 truncate">{label} <span class="muted">{count} series</span></span>
                    <select
                      class="field py-0.5!"
                      aria-label="How often {label} is kept"
                      value={String(slower[key] ?? 0)}
                      onchange={(event) => setSlower(key, Number(event.currentTarget.value))}
                    >
                      <option value="0">each time</option>
                      {#each SLOWER_CHOICES as seconds (seconds)}
                        <option value={String(seconds)}>each {formatElapsed(seconds * 1000)}</option>
                      {/each}
                    </select>
                  </li>
                {/each}
              </ul>
            </Fold>
          {/if}
          <button class="btn btn-strong justify-self-start">Keep</button>
        </form>
        {#if source.isPolled}
          <form
            method="POST"
            action="?/like"
            use:enhance
            class="border-rule-2 mt-3 flex items-end gap-2 border-t pt-2"
          >
            <label class="grid grow gap-0.5"
              >Another like it, at <input
                class="field"
                name="address"
                required
                placeholder={source.address}
              /></label
            >
            <button class="btn">Check it</button>
          </form>
        {/if}
        <form method="POST" action="?/remove" use:enhance class="border-rule-2 mt-3 border-t pt-2">
          <button
            class="btn text-ink-2"
            onclick={(event) => {
              if (!confirm(`Remove ${source.name}? Its readings and alerts go with it; its gear stays.`))
                event.preventDefault()
            }}>Remove</button
          >
        </form>
      </section>
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
    <section class="panel" aria-labelledby="shows">
      <h2 class="panel-title" id="shows">
        What it shows <span
          >{data.tree.length} gear, {parts} parts{data.left === 0 ? '' : `, ${data.left} left out`}; values of {formatAgo(
            source.lastHeardMs,
            live.nowMs,
          )}</span
        >
      </h2>
      {#if data.tree.length === 0}
        <p class="muted">Nothing yet. What it has appears with its first reading.</p>
      {:else}
        {#if data.mayConnect}
          <form
            method="POST"
            action="?/pick"
            class="mb-2 flex items-center gap-3"
            use:enhance={() =>
              async ({ update }) => {
                await update()
                own = null
              }}
          >
            <input type="hidden" name="left" value={JSON.stringify([...left])} />
            <button class="btn btn-strong" disabled={own === null && data.waiting.length === 0}
              >{own === null && data.waiting.length > 0
                ? 'Leave out what waits'
                : 'Watch what is picked'}</button
            >
            <span class="muted">What is left out keeps what was read of it so far.</span>
          </form>
        {/if}
        <PickTree tree={data.tree} {left} onLeft={(next) => (own = next)} />
      {/if}
    </section>
  </div>
</div>
