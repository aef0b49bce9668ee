<script lang="ts">
  import PanelTitle from '$lib/components/ui/PanelTitle.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { invalidate } from '$app/navigation'
  import { formatElapsed, formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { takeAlert } from '$lib/client/requests'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import DeviceTexts from '$lib/components/logs/DeviceTexts.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import TimeChart from '$lib/components/readings/TimeChart.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const alert = $derived(data.alert)
  let refusal = $state<string | null>(null)
  const moment = (atMs: number): string => formatMoment(atMs, live.nowMs, timeZone)

  const standing = $derived(
    alert.clearedAtMs !== null
      ? `It cleared at ${moment(alert.clearedAtMs)}, after ${formatElapsed(alert.lastedMs)}.`
      : data.quiet !== null
        ? data.quiet.what === 'accept'
          ? `${data.quiet.who} accepts it: ${data.quiet.reason}`
          : `It is quiet until ${data.quiet.untilMs === null ? 'somebody ends it' : moment(data.quiet.untilMs)}, by ${data.quiet.who}: ${data.quiet.reason}`
        : alert.takenBy !== null
          ? `${alert.takenBy} has it.`
          : 'Nobody has it yet.',
  )
  const HOURS_MS = 3 * 3_600_000
  /** The alert with some hours around it, as far as a year goes. */
  const around = $derived.by(() => {
    const toMs = Math.round(Math.min(live.nowMs, (alert.clearedAtMs ?? live.nowMs) + HOURS_MS))
    return { fromMs: Math.round(Math.max(alert.sinceMs - HOURS_MS, toMs - 365 * 86_400_000)), toMs }
  })
  async function take(): Promise<void> {
    const done = await takeAlert(alert.id)
    refusal = done.kind === 'refused' ? done.message : null
    await invalidate('rack:alerts')
  }
</script>

<svelte:head><title>{alert.title} · {data.shell.site.name}</title></svelte:head>

<div class="flex items-start gap-3" data-row>
  <span class="pt-1"><Glyph state={alert.glyph} /></span>
  <div class="min-w-0">
    <h1 data-testid="sentence">
      {alert.title}.
      <span class="text-ink-2 font-[450]">{standing}</span>
    </h1>
    <p class="mt-1">
      {alert.reason}
      {#if alert.consequence !== ''}{alert.consequence}{/if}
      {#if alert.clearedReason !== null}<span class="text-ink-2 text-xs">{alert.clearedReason}</span>{/if}
    </p>
    <p class="text-ink-2 text-xs">
      {#if alert.place !== null}<span class="place mr-2">{alert.place}</span>{/if}
      {#if alert.gearId !== null}<Link
          href="/gear/{alert.gearId}{alert.seriesId === null ? '' : `?r=${alert.seriesId}`}"
          >{alert.gearName}</Link
        >{#if alert.seriesId !== null}
          · <Link href="/past?s={alert.seriesId}&from={around.fromMs}&to={around.toMs}">look back</Link
          >{/if}{:else if alert.sourceId !== null}<Link href="/sources/{alert.sourceId}">its source</Link
        >{/if}
      · started {moment(alert.sinceMs)}, noticed {moment(alert.openedAtMs)}
      {#if alert.line !== null}· the line then: {alert.line}{/if}
      {#if data.rule !== null}· by the {data.rule.isDefault ? 'shipped' : 'own'} rule
        <Link href="/alerts/rules/{data.rule.id}">{data.rule.name}</Link>{/if}
    </p>
    {#if data.cause !== null}
      <p class="mt-1" data-testid="cause">
        It follows from <Link class="font-[620]" href="/alerts/{data.cause.id}">{data.cause.title}</Link>:
        {alert.causePath}.
      </p>
    {/if}
  </div>
  {#if data.mayOperate && alert.clearedAtMs === null && alert.takenBy === null}
    <Button look="strong" class="ml-auto" data-take onclick={() => void take()}>Take</Button>
  {/if}
</div>
<AlertTabs />
{#if refusal !== null}<p class="text-crit" role="alert">{refusal}</p>{/if}
{#if form?.message != null}<p class="text-crit" role="alert">{form.message}</p>{/if}

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_372px]">
  <div class="grid gap-3.5">
    {#if data.charts.length > 0}
      <Panel aria-label="Curve">
        {#each data.charts as chart (chart.key)}
          <TimeChart {chart} window={data.window} {timeZone} zoom={() => undefined} />
        {/each}
      </Panel>
    {/if}
    {#if data.followOns.length > 0}
      <Panel title="Follow-on alerts" note={data.followOns.length}>
        <ul data-testid="follow-ons">
          {#each data.followOns as { id, title, path, isCleared } (id)}
            <li class="border-rule-2 border-t py-1" data-row>
              <a class="hover:underline" href="/alerts/{id}">{title}</a>
              <span class="text-ink-2 text-xs">{path}{isCleared ? '; cleared' : ''}</span>
            </li>
          {/each}
        </ul>
      </Panel>
    {/if}
    <Panel title="History">
      <ol data-testid="history">
        {#each data.events as event (event.id)}
          <li class="border-rule-2 grid grid-cols-[104px_84px_minmax(0,1fr)] gap-2 border-t py-1">
            <span class="text-ink-2 text-xs whitespace-nowrap">{moment(event.atMs)}</span>
            <span class="text-ink-2 text-xs">{event.what}</span>
            <span>
              {event.text}{#if event.what === 'comment'}<span class="text-ink-2 text-xs">
                  — {event.who}</span
                >{/if}
            </span>
          </li>
        {/each}
        {#each data.messages as message (message.id)}
          <li class="border-rule-2 grid grid-cols-[104px_84px_minmax(0,1fr)] gap-2 border-t py-1">
            <span class="text-ink-2 text-xs whitespace-nowrap"
              >{moment(message.sentAtMs ?? message.dueAtMs)}</span
            >
            <span class="text-ink-2 text-xs">{message.action === 'notify' ? 'message' : 'action'}</span>
            <span
              >{message.action === 'notify' ? message.subject : message.team}
              <span class="text-ink-2 text-xs">
                {message.skipped !== null
                  ? `not sent: ${message.skipped}`
                  : message.sentAtMs !== null
                    ? `to ${message.team}, ${message.answer ?? ''}`
                    : message.isFailed
                      ? `failed: ${message.answer ?? ''}`
                      : message.attempts === 0
                        ? message.dueAtMs > live.nowMs
                          ? `to ${message.team}, should it still be there then`
                          : `to ${message.team}, on its way`
                        : `to ${message.team}, tried ${message.attempts} times: ${message.answer ?? ''}`}
              </span></span
            >
          </li>
        {/each}
      </ol>
      {#if data.mayOperate}
        <Form action="?/comment" class="mt-2 flex gap-2">
          <Input
            class="grow"
            name="text"
            placeholder="What you found, or did"
            aria-label="Comment"
            maxlength="2000"
          />
          <Button>Add comment</Button>
        </Form>
      {/if}
    </Panel>
    {#if data.texts.length > 0}
      <Panel title="Log lines" note="ten minutes before and after">
        <DeviceTexts texts={data.texts} nowMs={live.nowMs} {timeZone} />
      </Panel>
    {/if}
  </div>

  <div class="grid gap-3.5">
    {#if data.mayOperate && alert.clearedAtMs === null}
      <Panel aria-label="Quiet or accept" id="quiet">
        {#if data.quiet !== null}
          <PanelTitle>{data.quiet.what === 'accept' ? 'Accepted' : 'Quiet'}</PanelTitle>
          <p>{data.quiet.reason} <span class="text-ink-2 text-xs">— {data.quiet.who}</span></p>
          <Form action="?/loud" class="mt-2">
            <input type="hidden" name="quietId" value={data.quiet.id} />
            <Button>{data.quiet.what === 'accept' ? 'Accept no longer' : 'End the quiet'}</Button>
          </Form>
        {:else}
          <PanelTitle>Quiet it <span>recording goes on</span></PanelTitle>
          <Form action="?/quiet" class="grid gap-2">
            <div class="flex flex-wrap gap-2">
              <Select
                name="reach"
                aria-label="Scope"
                options={[
                  { value: 'this', label: 'this alert' },
                  ...(alert.partId !== null ? [{ value: 'part', label: `all of ${alert.partName}` }] : []),
                  ...(alert.gearId !== null ? [{ value: 'gear', label: `all of ${alert.gearName}` }] : []),
                ]}
              />
              <Select
                name="length"
                aria-label="For how long"
                options={[
                  ...['1 h', '4 h', '12 h', '1 d', '7 d'].map((length) => ({
                    value: length,
                    label: `for ${length}`,
                  })),
                  { value: 'open', label: 'until somebody ends it' },
                ]}
              />
            </div>
            <Input name="reason" placeholder="because" aria-label="Reason for quiet" />
            <div><Button>Quiet</Button></div>
          </Form>
          <PanelTitle class="mt-4">Accept it <span>comes back when it changes</span></PanelTitle>
          <Form action="?/accept" class="grid gap-2">
            <Input name="reason" placeholder="It is as it should be, because" aria-label="Reason to accept" />
            <div><Button>Accept</Button></div>
          </Form>
        {/if}
      </Panel>
    {/if}
    <Panel title="Earlier occurrences" aria-label="Before">
      <ul>
        {#each data.earlier as each (each.id)}
          <li class="border-rule-2 flex justify-between gap-2 border-t py-1">
            <a class="hover:underline" href="/alerts/{each.id}">{moment(each.openedAtMs)}</a>
            <span class="text-ink-2 text-xs"
              >{each.lasted ?? 'still open'}{each.flaps > 0
                ? `, flapped ${each.flaps} times`
                : ''}{each.takenBy === null ? '' : `, ${each.takenBy}`}</span
            >
          </li>
        {:else}
          <li class="text-ink-2 text-xs">First occurrence.</li>
        {/each}
      </ul>
    </Panel>
    <Panel title="Around that time" note="ten minutes" aria-label="Around">
      <ul>
        {#each data.around as each (each.id)}
          <li class="border-rule-2 flex gap-2 border-t py-1">
            <Glyph state={each.isCleared ? 'well' : each.severity} />
            <a class="min-w-0 grow truncate hover:underline" href="/alerts/{each.id}">{each.title}</a>
            <span class="text-ink-2 text-xs">{moment(each.openedAtMs)}</span>
          </li>
        {:else}
          <li class="text-ink-2 text-xs">Nothing else opened.</li>
        {/each}
      </ul>
    </Panel>
  </div>
</div>
