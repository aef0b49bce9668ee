<script lang="ts">
  import { CHANNEL_WORDS } from '#core/callouts'
  import { formatAgo, formatElapsed, formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import CallSteps from '$lib/components/callouts/CallSteps.svelte'
  import DutyBands from '$lib/components/callouts/DutyBands.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const moment = (atMs: number): string => formatMoment(atMs, live.nowMs, timeZone)

  function outcome(message: (typeof data.messages)[number]): string {
    if (message.skipped !== null) return `not sent: ${message.skipped}`
    if (message.sentAtMs !== null) {
      const late = message.sentAtMs - message.dueAtMs
      return `${message.answer ?? ''}${late > 60_000 ? `, ${formatElapsed(late)} late` : ''}`
    }
    if (message.isFailed) return `in vain: ${message.answer ?? ''}`
    if (message.attempts > 0) return `tried ${message.attempts} times: ${message.answer ?? ''}`
    return message.dueAtMs > live.nowMs
      ? `in ${formatElapsed(message.dueAtMs - live.nowMs)}, should it still be there`
      : 'on its way'
  }
</script>

<svelte:head><title>Call-outs · {data.shell.site.name}</title></svelte:head>

<div class="flex items-start justify-between gap-4">
  <h1 data-testid="sentence">{data.sentence}</h1>
  {#if data.mayAdminister}<a class="btn btn-strong whitespace-nowrap" href="/alerts/callouts/new"
      >New call-out</a
    >{/if}
</div>
<AlertTabs />

{#if data.weaknesses.length > 0}
  <ul class="grid gap-1" aria-label="What is weak about it">
    {#each data.weaknesses as weakness (weakness)}
      <li class="flex items-baseline gap-2">
        <Glyph state="warning" label="weak" />
        <span>{weakness}</span>
        {#if data.mayAdminister && weakness.startsWith('Should ')}<a
            class="link whitespace-nowrap"
            href="/alerts/callouts/self-monitoring">What the alarm hangs on</a
          >{/if}
      </li>
    {/each}
  </ul>
{/if}

<div class="grid grid-cols-[minmax(0,1fr)_420px] items-start gap-4">
  <section class="panel" aria-label="Call-outs">
    <h2 class="panel-title">Call-outs <span>who is told, by which channel, in which steps</span></h2>
    <ul>
      {#each data.callOuts as callOut (callOut.id)}
        <li class="border-rule-2 grid gap-2 border-t py-2.5 first:border-t-0" data-row data-testid="call-out">
          <p>
            {#if data.mayAdminister}<a class="link font-[620]" href="/alerts/callouts/{callOut.id}"
                >{callOut.name}</a
              >{:else}<b class="font-[620]">{callOut.name}</b>{/if}
            <span class="muted">
              {callOut.covers}, {callOut.hours}{callOut.holdOff === null
                ? ''
                : `; one message within ${callOut.holdOff}`}{callOut.tellsCleared
                ? ''
                : '; not when it is over'}{callOut.isOn ? '' : '; switched off'}
            </span>
          </p>
          <div class={callOut.isOn ? '' : 'opacity-55'}>
            <CallSteps steps={callOut.steps} label={callOut.sentence} />
          </div>
        </li>
      {:else}
        <li class="muted">
          None yet. {data.mayAdminister
            ? 'Set up a channel and a team first, then make a call-out.'
            : 'Who administers can make one.'}
        </li>
      {/each}
    </ul>
  </section>

  <div class="grid gap-4">
    <section class="panel" aria-label="On duty">
      <h2 class="panel-title">
        On duty
        {#if data.mayAdminister}<a class="link normal-case" href="/alerts/callouts/teams">Teams and people</a
          >{/if}
      </h2>
      {#each data.duties as duty (duty.teamId)}
        <div class="border-rule-2 grid gap-1 border-t py-2 first:border-t-0">
          <p>
            <b class="font-[620]">{duty.team}</b>
            <span class="muted"
              >{duty.onDutyName === null
                ? `${duty.members.join(', ')}; all of them, it has no calendar`
                : `${duty.onDutyName} is on duty`}</span
            >
          </p>
          {#if duty.turns.length > 0}<DutyBands turns={duty.turns} window={data.window} {timeZone} />{/if}
        </div>
      {:else}<p class="muted">No team yet.</p>{/each}
    </section>
    <section class="panel" aria-label="Channels">
      <h2 class="panel-title">
        Channels
        {#if data.mayAdminister}<a class="link normal-case" href="/alerts/callouts/channels"
            >Set up and test</a
          >{/if}
      </h2>
      <ul>
        {#each data.channels as channel (channel.id)}
          <li class="border-rule-2 flex items-baseline gap-2 border-t py-1.5 first:border-t-0">
            {#if channel.stuck > 0}<Glyph state="critical" label="stuck" />{/if}
            <span class="font-[620] whitespace-nowrap">{channel.name}</span>
            <span class="muted"
              >{CHANNEL_WORDS[channel.kind]}; {channel.stuck > 0
                ? `${channel.stuck} waiting for ${formatElapsed(live.nowMs - (channel.stuckSinceMs ?? live.nowMs))}: ${channel.answer ?? ''}`
                : channel.throughAtMs === null
                  ? 'nothing sent yet'
                  : `last through ${formatAgo(channel.throughAtMs, live.nowMs)}`}</span
            >
          </li>
        {:else}<li class="muted">None yet.</li>{/each}
      </ul>
      {#if data.mayAdminister}
        <p class="mt-2"><a class="link" href="/alerts/callouts/self-monitoring">Self-monitoring</a></p>
      {/if}
    </section>
  </div>
</div>

<section class="panel" aria-label="Told lately">
  <h2 class="panel-title">Told lately <span>each with what the far side answered</span></h2>
  <table class="ledger">
    <thead><tr><th>When</th><th>What</th><th>To whom</th><th>What became of it</th></tr></thead>
    <tbody>
      {#each data.messages as message (message.id)}
        <tr data-testid="message-row">
          <td class="muted whitespace-nowrap">{moment(message.sentAtMs ?? message.dueAtMs)}</td>
          <td
            >{#if message.alertId === null}{message.subject}{:else}<a
                class="link"
                href="/alerts/{message.alertId}">{message.subject.replace(/^\[.*?\] /, '')}</a
              >{/if}</td
          >
          <td class="muted"
            >{message.team}{message.recipients.length > 0 && message.recipients.length <= 2
              ? ` (${message.recipients.join(', ')})`
              : ''}</td
          >
          <td
            class="muted {message.isFailed || (message.attempts > 0 && message.sentAtMs === null)
              ? 'text-crit'
              : ''}">{outcome(message)}</td
          >
        </tr>
      {:else}<tr><td colspan="4" class="muted">Nothing yet.</td></tr>{/each}
    </tbody>
  </table>
</section>
