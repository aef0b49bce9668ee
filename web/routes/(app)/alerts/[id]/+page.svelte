<script lang="ts">
  import { invalidate } from '$app/navigation'
  import { formatElapsed, formatMoment } from '#core/units'
  import { enhance } from '$lib/client/forms'
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
      {#if alert.clearedReason !== null}<span class="muted">{alert.clearedReason}</span>{/if}
    </p>
    <p class="muted">
      {#if alert.place !== null}<span class="place mr-2">{alert.place}</span>{/if}
      {#if alert.gearId !== null}<a
          class="link"
          href="/gear/{alert.gearId}{alert.seriesId === null ? '' : `?r=${alert.seriesId}`}"
          >{alert.gearName}</a
        >{:else if alert.sourceId !== null}<a class="link" href="/sources/{alert.sourceId}">its source</a
        >{/if}
      · started {moment(alert.sinceMs)}, noticed {moment(alert.openedAtMs)}
      {#if alert.line !== null}· the line then: {alert.line}{/if}
      {#if data.rule !== null}· by the {data.rule.isDefault ? 'shipped' : 'own'} rule
        <a class="link" href="/alerts/rules/{data.rule.id}">{data.rule.name}</a>{/if}
    </p>
    {#if data.cause !== null}
      <p class="mt-1" data-testid="cause">
        It follows from <a class="link font-[620]" href="/alerts/{data.cause.id}">{data.cause.title}</a>:
        {alert.causePath}.
      </p>
    {/if}
  </div>
  {#if data.mayOperate && alert.clearedAtMs === null && alert.takenBy === null}
    <button class="btn btn-strong ml-auto" data-take onclick={() => void take()}>Take</button>
  {/if}
</div>
<AlertTabs />
{#if refusal !== null}<p class="text-crit" role="alert">{refusal}</p>{/if}
{#if form?.message != null}<p class="text-crit" role="alert">{form.message}</p>{/if}

<div class="grid grid-cols-[minmax(0,1fr)_372px] items-start gap-4">
  <div class="grid gap-3.5">
    {#if data.charts.length > 0}
      <section class="panel" aria-label="Curve">
        {#each data.charts as chart (chart.key)}
          <TimeChart {chart} window={data.window} {timeZone} zoom={() => undefined} />
        {/each}
      </section>
    {/if}
    {#if data.followOns.length > 0}
      <section class="panel" aria-label="What follows from it">
        <h2 class="panel-title">What follows from it <span>{data.followOns.length}</span></h2>
        <ul data-testid="follow-ons">
          {#each data.followOns as { id, title, path, isCleared } (id)}
            <li class="border-rule-2 border-t py-1" data-row>
              <a class="hover:underline" href="/alerts/{id}">{title}</a>
              <span class="muted">{path}{isCleared ? '; cleared' : ''}</span>
            </li>
          {/each}
        </ul>
      </section>
    {/if}
    <section class="panel" aria-label="Who did what">
      <h2 class="panel-title">Who did what</h2>
      <ol data-testid="history">
        {#each data.events as event (event.id)}
          <li class="border-rule-2 grid grid-cols-[104px_84px_minmax(0,1fr)] gap-2 border-t py-1">
            <span class="muted whitespace-nowrap">{moment(event.atMs)}</span>
            <span class="muted">{event.what}</span>
            <span>
              {event.text}{#if event.what === 'comment'}<span class="muted"> — {event.who}</span>{/if}
            </span>
          </li>
        {/each}
        {#each data.messages as message (message.id)}
          <li class="border-rule-2 grid grid-cols-[104px_84px_minmax(0,1fr)] gap-2 border-t py-1">
            <span class="muted whitespace-nowrap">{moment(message.sentAtMs ?? message.dueAtMs)}</span>
            <span class="muted">{message.action === 'notify' ? 'message' : 'action'}</span>
            <span
              >{message.action === 'notify' ? message.subject : message.team}
              <span class="muted">
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
        <form method="POST" action="?/comment" use:enhance class="mt-2 flex gap-2">
          <input
            class="field grow"
            name="text"
            placeholder="What you found, or did"
            aria-label="Comment"
            maxlength="2000"
          />
          <button class="btn">Keep comment</button>
        </form>
      {/if}
    </section>
    {#if data.texts.length > 0}
      <section class="panel" aria-label="What it said">
        <h2 class="panel-title">What it said <span>ten minutes before and after</span></h2>
        <DeviceTexts texts={data.texts} nowMs={live.nowMs} {timeZone} />
      </section>
    {/if}
  </div>

  <div class="grid gap-3.5">
    {#if data.mayOperate && alert.clearedAtMs === null}
      <section class="panel" aria-label="Quiet or accept" id="quiet">
        {#if data.quiet !== null}
          <h2 class="panel-title">{data.quiet.what === 'accept' ? 'Accepted' : 'Quiet'}</h2>
          <p>{data.quiet.reason} <span class="muted">— {data.quiet.who}</span></p>
          <form method="POST" action="?/loud" use:enhance class="mt-2">
            <input type="hidden" name="quietId" value={data.quiet.id} />
            <button class="btn">{data.quiet.what === 'accept' ? 'Accept no longer' : 'End the quiet'}</button>
          </form>
        {:else}
          <h2 class="panel-title">Quiet it <span>recording goes on</span></h2>
          <form method="POST" action="?/quiet" use:enhance class="grid gap-2">
            <div class="flex flex-wrap gap-2">
              <select class="field" name="reach" aria-label="What is quiet">
                <option value="this">this alert</option>
                {#if alert.partId !== null}<option value="part">all of {alert.partName}</option>{/if}
                {#if alert.gearId !== null}<option value="gear">all of {alert.gearName}</option>{/if}
              </select>
              <select class="field" name="length" aria-label="For how long">
                {#each ['1 h', '4 h', '12 h', '1 d', '7 d'] as length (length)}<option value={length}
                    >for {length}</option
                  >{/each}
                <option value="open">until somebody ends it</option>
              </select>
            </div>
            <input class="field" name="reason" placeholder="because" aria-label="Reason for quiet" />
            <div><button class="btn">Quiet</button></div>
          </form>
          <h2 class="panel-title mt-4">Accept it <span>comes back when it changes</span></h2>
          <form method="POST" action="?/accept" use:enhance class="grid gap-2">
            <input
              class="field"
              name="reason"
              placeholder="It is as it should be, because"
              aria-label="Reason to accept"
            />
            <div><button class="btn">Accept</button></div>
          </form>
        {/if}
      </section>
    {/if}
    <section class="panel" aria-label="Before">
      <h2 class="panel-title">The same before</h2>
      <ul>
        {#each data.earlier as each (each.id)}
          <li class="border-rule-2 flex justify-between gap-2 border-t py-1">
            <a class="hover:underline" href="/alerts/{each.id}">{moment(each.openedAtMs)}</a>
            <span class="muted"
              >{each.lasted ?? 'still open'}{each.flaps > 0
                ? `, flapped ${each.flaps} times`
                : ''}{each.takenBy === null ? '' : `, ${each.takenBy}`}</span
            >
          </li>
        {:else}
          <li class="muted">It is the first time.</li>
        {/each}
      </ul>
    </section>
    <section class="panel" aria-label="Around">
      <h2 class="panel-title">Around it in time <span>ten minutes</span></h2>
      <ul>
        {#each data.around as each (each.id)}
          <li class="border-rule-2 flex gap-2 border-t py-1">
            <Glyph state={each.isCleared ? 'well' : each.severity} />
            <a class="min-w-0 grow truncate hover:underline" href="/alerts/{each.id}">{each.title}</a>
            <span class="muted">{moment(each.openedAtMs)}</span>
          </li>
        {:else}
          <li class="muted">Nothing else opened.</li>
        {/each}
      </ul>
    </section>
  </div>
</div>
