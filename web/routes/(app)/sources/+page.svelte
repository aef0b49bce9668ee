<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { listNames } from '#core/rules'
  import { formatAgo, formatElapsed, formatMoment, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { checkSource } from '$lib/client/requests'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)

  const silent = $derived(data.sources.filter((source) => source.state === 'silent'))
  const failing = $derived(data.sources.filter((source) => source.state === 'failing'))
  const sentence = $derived.by(() => {
    const waits =
      data.waiting.length === 0
        ? ''
        : `; ${data.waiting.length} ${data.waiting.length === 1 ? 'sender waits' : 'senders wait'} to be claimed`
    if (data.count === 0) return `Nothing is connected yet${waits}.`
    if (silent.length + failing.length === 0) return `All ${data.count} sources are heard${waits}.`
    const words = [
      silent.length > 0
        ? `${listNames(silent.map(({ name }) => name))} ${silent.length === 1 ? 'is' : 'are'} silent`
        : null,
      failing.length > 0 ? `${listNames(failing.map(({ name }) => name))} failed at the last try` : null,
    ]
    return `${words.filter(Boolean).join('; ')}${waits}.`
  })
  const PLURAL = { push: 'pushes', heartbeat: 'heartbeats', notification: 'notifications' } as const
  const WORDS = { well: 'heard', starting: 'not heard yet', failing: 'failing', silent: 'no data' } as const

  let asked = $state<Record<number, string>>({})
  async function check(id: number): Promise<void> {
    asked[id] = 'asking…'
    const done = await checkSource(id)
    asked[id] = done.kind === 'refused' ? done.message : 'asked'
  }
  $effect(() =>
    live.onChange(({ sourceIds }) => {
      asked = Object.fromEntries(Object.entries(asked).filter(([id]) => !sourceIds.includes(Number(id))))
    }),
  )
</script>

<svelte:head><title>Sources · {data.shell.site.name}</title></svelte:head>

<div class="flex items-start justify-between gap-4">
  <h1>{sentence}</h1>
  {#if data.mayConnect}
    <div class="flex gap-2">
      <Button href="/sources/look">Scan network</Button>
      <Button href="/sources/many">Import sources</Button>
      <Button look="strong" href="/sources/connect">Connect</Button>
    </div>
  {/if}
</div>

{#if data.turnedAway.length > 0}
  <p class="text-ink-2 text-xs">
    <Link href="#turned-away"
      >{data.turnedAway.length === 1
        ? `${data.turnedAway[0]!.address} was turned away`
        : `${data.turnedAway.length} attempts from outside were turned away`}</Link
    >, last {formatAgo(data.turnedAway[0]!.lastMs, live.nowMs)}.
  </p>
{/if}
{#if data.waiting.length > 0}
  <Panel
    title="Senders to claim"
    note="they push, and nobody has said yet who they are; what they push is kept for a day"
    id="waiting"
  >
    {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
    {#each data.waiting as sender (sender.id)}
      <div
        class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 border-t py-1.5"
        data-testid="pending-sender"
      >
        <div>
          <b class="font-[640]">{sender.gear.join('; ')}{sender.more > 0 ? ` and ${sender.more} more` : ''}</b
          >
          <p class="text-ink-2 text-xs">
            Pushes from <span class="font-mono text-[11px]">{sender.address}</span> since {formatMoment(
              sender.firstMs,
              live.nowMs,
              timeZone,
            )}, last {formatAgo(sender.lastMs, live.nowMs)}; {sender.readings}
            {sender.readings === 1 ? 'reading' : 'readings'} each time, {sender.pushes}
            {sender.pushes === 1 ? 'push' : 'pushes'} kept.
          </p>
        </div>
        {#if data.mayConnect}
          <div class="flex items-end gap-2">
            <Form action="?/claim" class="flex items-end gap-2">
              <input type="hidden" name="id" value={sender.id} />
              <label class="grid gap-0.5"
                ><span class="text-ink-2 text-xs">Name</span><Input
                  class="w-44"
                  name="name"
                  required
                  maxlength="64"
                  defaultValue={sender.name}
                /></label
              >
              <label class="grid gap-0.5"
                ><span class="text-ink-2 text-xs">Pushes every, s</span><Input
                  class="w-16"
                  name="intervalSeconds"
                  inputmode="numeric"
                  defaultValue="60"
                /></label
              >
              <Button look="strong">Claim</Button>
            </Form>
            <Form action="?/refuse">
              <input type="hidden" name="id" value={sender.id} />
              <Button>Refuse</Button>
            </Form>
          </div>
        {/if}
      </div>
    {/each}
  </Panel>
{/if}
<Panel aria-label="Sources">
  <Table>
    <thead>
      <tr>
        <th class="w-6"><span class="sr-only">State</span></th>
        <th>Source</th>
        <th>Speaks</th>
        <th>Last heard</th>
        <th>Every</th>
        <th><span class="sr-only">Do</span></th>
      </tr>
    </thead>
    <tbody>
      {#each data.sources as source (source.id)}
        <tr id="source-{source.id}" class="target:bg-accent-soft" data-row data-testid="source-row">
          <td>
            {#if source.state === 'failing'}
              <Glyph state="warning" label="failing" />
            {:else}
              <Glyph state={source.state === 'silent' ? 'noData' : 'well'} label={WORDS[source.state]} />
            {/if}
          </td>
          <td>
            <a class="font-[640] hover:underline" href="/sources/{source.id}">{source.name}</a>
            <p class="text-ink-2 text-xs break-all">
              <span class="font-mono text-[11px]">{source.address}</span>{source.credentialName === null
                ? ''
                : ` · ${source.credentialName}`}
            </p>
            <p class="text-ink-2 text-xs">
              {#each source.gear as gear, index (gear.id)}{index > 0 ? ', ' : 'sees '}<Link
                  href="/gear/{gear.id}">{gear.name}</Link
                >{/each}
            </p>
            {#if source.failure !== null}
              <p class="text-blind mt-0.5" data-testid="failure">
                {source.failure}
                {#if source.failedAtMs !== null}
                  <span class="text-ink-2 text-xs"
                    >At {formatMoment(source.failedAtMs, live.nowMs, timeZone)}{source.failures > 1
                      ? `, ${source.failures} times in a row`
                      : ''}{source.triedAgainMs !== null && source.triedAgainMs > live.nowMs
                      ? `; tried again within ${formatElapsed(source.triedAgainMs - live.nowMs)}`
                      : ''}.</span
                  >
                {/if}
              </p>
            {/if}
          </td>
          <td class="text-ink-2 text-xs whitespace-nowrap">{source.protocol}</td>
          <td class="text-ink-2 text-xs whitespace-nowrap">
            {formatAgo(source.lastHeardMs, live.nowMs)}
            {#if source.lastDurationMs !== null}<br />took {source.lastDurationMs} ms{/if}
          </td>
          <td class="text-ink-2 text-xs whitespace-nowrap">{source.intervalSeconds} s</td>
          <td class="text-right whitespace-nowrap">
            {#if data.mayCheck && source.isPolled}
              <Button onclick={() => check(source.id)}>Check now</Button>
            {/if}
            {#if asked[source.id] !== undefined}<p class="text-ink-2 text-xs" role="status">
                {asked[source.id]}
              </p>{/if}
          </td>
        </tr>
      {:else}
        <tr
          ><td colspan="6" class="text-ink-2 text-xs"
            >Connect a controller, a UPS or a host that pushes; its gear appears by itself.</td
          ></tr
        >
      {/each}
    </tbody>
  </Table>
  {#if data.sources.length < data.count}
    <p class="text-ink-2 mt-2 text-xs">
      {data.count - data.sources.length} more are heard as they should be.
      <Link href="?all">Show all {data.count}</Link>
    </p>
  {/if}
</Panel>
{#if data.strangers.length > 0}
  <Panel
    title="Heard, and nothing watched is there"
    note="syslog and SNMP notifications of the last day"
    id="strangers"
  >
    {#each data.strangers as stranger (stranger.address)}
      <div
        class="border-rule-2 grid grid-cols-[200px_minmax(0,1fr)_auto] items-baseline gap-3 border-t py-1"
        data-testid="stranger"
      >
        <span class="font-mono text-[11px]"
          >{stranger.address}{stranger.host === null ? '' : ` · ${stranger.host}`}</span
        >
        <span class="min-w-0 truncate"
          ><span class="text-ink-2 text-xs"
            >{stranger.texts} texts, last {formatAgo(stranger.lastMs, live.nowMs)}:</span
          >
          {stranger.body}</span
        >
        {#if data.mayConnect}
          <Link href="/sources/connect?address={encodeURIComponent(stranger.address)}">Connect it</Link>
        {/if}
      </div>
    {/each}
  </Panel>
{/if}
{#if data.turnedAway.length > 0}
  <Panel
    title="Refused senders"
    note="of the last seven days; none of it has changed anything"
    id="turned-away"
  >
    {#each data.turnedAway as met (`${met.address} ${met.what}`)}
      <div
        class="border-rule-2 grid grid-cols-[200px_minmax(0,1fr)_auto] items-baseline gap-3 border-t py-1"
        data-testid="turned-away"
      >
        <span class="font-mono text-[11px]">{met.address}</span>
        <span class="min-w-0 truncate" title={met.reason}
          >{met.count === 1 ? `A ${met.what}` : `${formatNumber(met.count, 0)} ${PLURAL[met.what]}`}: {met.reason}</span
        >
        <span class="text-ink-2 text-xs"
          >{met.count === 1
            ? formatAgo(met.lastMs, live.nowMs)
            : `since ${formatMoment(met.firstMs, live.nowMs, timeZone)}, last ${formatAgo(met.lastMs, live.nowMs)}`}</span
        >
      </div>
    {/each}
  </Panel>
{/if}
