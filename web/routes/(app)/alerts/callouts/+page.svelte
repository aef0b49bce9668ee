<script lang="ts">
  import PanelTitle from '$lib/components/ui/PanelTitle.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Button from '$lib/components/ui/Button.svelte'
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
  {#if data.mayAdminister}<Button look="strong" href="/alerts/callouts/new" class="whitespace-nowrap"
      >New call-out</Button
    >{/if}
</div>
<AlertTabs />

{#if data.weaknesses.length > 0}
  <ul class="grid gap-1" aria-label="Weak points">
    {#each data.weaknesses as weakness (weakness)}
      <li class="flex items-baseline gap-2">
        <Glyph state="warning" label="weak" />
        <span>{weakness}</span>
        {#if data.mayAdminister && weakness.startsWith('Should ')}<Link
            class="whitespace-nowrap"
            href="/alerts/callouts/self-monitoring">What alerting depends on</Link
          >{/if}
      </li>
    {/each}
  </ul>
{/if}

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_420px]">
  <Panel title="Call-outs" note="who is told, by which channel, in which steps">
    <ul>
      {#each data.callOuts as callOut (callOut.id)}
        <li class="border-rule-2 grid gap-2 border-t py-2.5 first:border-t-0" data-row data-testid="call-out">
          <p>
            {#if data.mayAdminister}<Link class="font-[620]" href="/alerts/callouts/{callOut.id}"
                >{callOut.name}</Link
              >{:else}<b class="font-[620]">{callOut.name}</b>{/if}
            <span class="text-ink-2 text-xs">
              {callOut.covers}, {callOut.hours}{callOut.holdOff === null
                ? ''
                : `; at most one message within ${callOut.holdOff}`}{callOut.tellsCleared
                ? ''
                : '; not when it is over'}{callOut.isOn ? '' : '; switched off'}
            </span>
          </p>
          <div class={callOut.isOn ? '' : 'opacity-55'}>
            <CallSteps steps={callOut.steps} label={callOut.sentence} />
          </div>
        </li>
      {:else}
        <li class="text-ink-2 text-xs">
          None yet. {data.mayAdminister
            ? 'Set up a channel and a team first, then make a call-out.'
            : 'Who administers can make one.'}
        </li>
      {/each}
    </ul>
  </Panel>

  <div class="grid gap-4">
    <Panel aria-label="On duty">
      <PanelTitle>
        On duty
        {#if data.mayAdminister}<Link class="normal-case" href="/alerts/callouts/teams">Teams and people</Link
          >{/if}
      </PanelTitle>
      {#each data.duties as duty (duty.teamId)}
        <div class="border-rule-2 grid gap-1 border-t py-2 first:border-t-0">
          <p>
            <b class="font-[620]">{duty.team}</b>
            <span class="text-ink-2 text-xs"
              >{duty.onDutyName === null
                ? `${duty.members.join(', ')}; all of them, it has no calendar`
                : `${duty.onDutyName} is on duty`}</span
            >
          </p>
          {#if duty.turns.length > 0}<DutyBands turns={duty.turns} window={data.window} {timeZone} />{/if}
        </div>
      {:else}<p class="text-ink-2 text-xs">No team yet.</p>{/each}
    </Panel>
    <Panel aria-label="Channels">
      <PanelTitle>
        Channels
        {#if data.mayAdminister}<Link class="normal-case" href="/alerts/callouts/channels"
            >Set up and test</Link
          >{/if}
      </PanelTitle>
      <ul>
        {#each data.channels as channel (channel.id)}
          <li class="border-rule-2 flex items-baseline gap-2 border-t py-1.5 first:border-t-0">
            {#if channel.stuck > 0}<Glyph state="critical" label="stuck" />{/if}
            <span class="font-[620] whitespace-nowrap">{channel.name}</span>
            <span class="text-ink-2 text-xs"
              >{CHANNEL_WORDS[channel.kind]}; {channel.stuck > 0
                ? `${channel.stuck} waiting for ${formatElapsed(live.nowMs - (channel.stuckSinceMs ?? live.nowMs))}: ${channel.answer ?? ''}`
                : channel.throughAtMs === null
                  ? 'nothing sent yet'
                  : `last through ${formatAgo(channel.throughAtMs, live.nowMs)}`}</span
            >
          </li>
        {:else}<li class="text-ink-2 text-xs">None yet.</li>{/each}
      </ul>
      {#if data.mayAdminister}
        <p class="mt-2"><Link href="/alerts/callouts/self-monitoring">Self-monitoring</Link></p>
      {/if}
    </Panel>
  </div>
</div>

<Panel title="Sent messages" note="each with what the far side answered">
  <Table>
    <thead><tr><th>When</th><th>Message</th><th>To</th><th>Result</th></tr></thead>
    <tbody>
      {#each data.messages as message (message.id)}
        <tr data-testid="message-row">
          <td class="text-ink-2 text-xs whitespace-nowrap">{moment(message.sentAtMs ?? message.dueAtMs)}</td>
          <td
            >{#if message.alertId === null}{message.subject}{:else}<Link href="/alerts/{message.alertId}"
                >{message.subject.replace(/^\[.*?\] /, '')}</Link
              >{/if}</td
          >
          <td class="text-ink-2 text-xs"
            >{message.team}{message.recipients.length > 0 && message.recipients.length <= 2
              ? ` (${message.recipients.join(', ')})`
              : ''}</td
          >
          <td
            class="text-ink-2 text-xs {message.isFailed || (message.attempts > 0 && message.sentAtMs === null)
              ? 'text-crit'
              : ''}">{outcome(message)}</td
          >
        </tr>
      {:else}<tr><td colspan="4" class="text-ink-2 text-xs">Nothing yet.</td></tr>{/each}
    </tbody>
  </Table>
</Panel>
