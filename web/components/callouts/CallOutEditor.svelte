<script lang="ts">
  import { untrack } from 'svelte'
  import {
    type CallOut,
    type ChannelKind,
    CHANNEL_WORDS,
    type Step,
    USUAL_MOST_A_MINUTE,
  } from '#core/callouts'
  import { GEAR_KINDS } from '#core/catalogue'
  import { fieldsOfWhere } from '#core/rules'
  import { writeSpan } from '#core/units'
  import { enhance } from '$lib/client/forms'
  import ScopeField, { type Places } from '../rules/ScopeField.svelte'

  interface Option {
    readonly id: number
    readonly name: string
  }
  let {
    callOut,
    kept,
    channels,
    teams,
    commands,
    gear,
    rules,
    places,
    message,
    dry,
  }: {
    callOut: CallOut | null
    kept: { readonly id: number; readonly isOn: boolean; readonly name: string } | null
    channels: readonly (Option & { readonly kind: ChannelKind })[]
    teams: readonly (Option & { readonly members: number; readonly hasDuty: boolean })[]
    commands: readonly { readonly collector: string; readonly name: string; readonly words: string }[]
    /** What can be asked to stop. */
    gear: readonly Option[]
    rules: readonly { readonly key: string; readonly name: string }[]
    places: Places
    message: string | null
    dry: { readonly isOver: boolean; readonly answer: string | null; readonly isFailed: boolean } | null
  } = $props()

  interface Row {
    key: number
    after: string
    does: string
    to: string
    command: string
    gear: string
    rules: readonly string[]
    evenIfTaken: boolean
  }
  let made = 0
  const rowOf = ({ after, action, evenIfTaken }: Step): Row => ({
    key: (made += 1),
    after:
      after.kind === 'intervals'
        ? `${after.count} intervals`
        : after.ms === 0
          ? 'at once'
          : writeSpan(after.ms),
    does: action.do === 'notify' ? `channel ${action.channelId}` : action.do,
    to: action.do === 'notify' && action.to !== null ? `${action.to.kind} ${action.to.teamId}` : '',
    command: action.do === 'command' ? action.name : '',
    gear: action.do === 'stop' && action.gearId !== null ? String(action.gearId) : '',
    rules: action.do === 'notify' ? [] : (action.rules ?? []),
    evenIfTaken,
  })
  const first = (): Row => ({
    key: (made += 1),
    after: 'at once',
    does: channels[0] === undefined ? '' : `channel ${channels[0].id}`,
    to: teams[0] === undefined ? '' : `team ${teams[0].id}`,
    command: '',
    gear: '',
    rules: [],
    evenIfTaken: false,
  })
  const given = untrack(() => callOut)
  let steps = $state(untrack(() => given?.steps.map(rowOf) ?? [first()]))
  const where = given === null ? null : fieldsOfWhere(given.scope.where)
  let whereKind = $state(where?.whereKind ?? 'everywhere')
  let whereValue = $state(where?.whereValue ?? '')
  const WHERES = [
    ['everywhere', 'everywhere'],
    ['tag', 'with a tag'],
    ['room', 'in a room'],
    ['rack', 'in a rack'],
    ['cluster', 'in a cluster'],
    ['group', 'in a group'],
    ['gear', 'one gear'],
  ] as const
  let always = $state(given?.hours == null ? 'always' : 'own')
  const clock = (minute: number): string =>
    `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
  const hours = given?.hours ?? { days: [0, 1, 2, 3, 4], fromMinute: 420, toMinute: 1020 }
  const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']

  const kindOfRow = (row: Row): ChannelKind | null =>
    channels.find(({ id }) => `channel ${id}` === row.does)?.kind ?? null
  const reachesPeople = (row: Row): boolean => ['mail', 'text'].includes(kindOfRow(row) ?? '')
  const ruleName = (key: string): string =>
    rules.find((each) => each.key === key)?.name ?? 'a rule that is gone'
  const NOT_BY_TEXTS = 'What devices say in logs and notifications never leads to it: anybody can send that.'
  /** What it will do, in words, before it is saved. */
  function words(row: Row): string {
    if (row.does === 'command') {
      const command = commands.find(({ name }) => name === row.command)
      return command === undefined
        ? ''
        : `Runs ${command.words} on ${command.collector}, without a shell, with the alert on its standard input. ${NOT_BY_TEXTS}`
    }
    if (row.does === 'stop') {
      const name = gear.find(({ id }) => String(id) === row.gear)?.name ?? 'the gear that the alert is about'
      return `Asks ${name} through its controller to stop in order. What runs on it ends. ${NOT_BY_TEXTS}`
    }
    const kind = kindOfRow(row)
    if (kind === 'screen') return 'Shows a line on every open page until somebody takes the alert.'
    if (kind === 'hook') return 'Posts a signed JSON document.'
    const [who, id] = row.to.split(' ')
    const team = teams.find((each) => String(each.id) === id)
    if (kind === null || team === undefined) return ''
    return who === 'team'
      ? `Reaches all ${team.members} of the ${team.name}.`
      : team.hasDuty
        ? `Reaches whoever of the ${team.name} is on duty then.`
        : `The ${team.name} has no duty calendar: all ${team.members} are reached.`
  }
  /** What can be gone through without being done. */
  const dryable = $derived(
    steps.flatMap((step, index) =>
      step.does === 'stop' || (step.does === 'command' && step.command !== '') ? [index] : [],
    ),
  )
</script>

{#if message !== null}<p class="text-crit" role="alert">{message}</p>{/if}
<form
  method="POST"
  action="?/save"
  use:enhance={() =>
    ({ update }) =>
      update({ reset: false })}
  class="grid gap-4"
>
  <section class="panel grid gap-3" aria-label="What it is for">
    <h2 class="panel-title">What it is for</h2>
    <div class="flex flex-wrap items-end gap-2.5">
      <label class="muted grid gap-0.5"
        >Name <input
          class="field w-72"
          name="name"
          required
          maxlength="80"
          value={given?.name ?? ''}
        /></label
      >
      <label class="muted grid gap-0.5"
        >of <select class="field" name="severity" value={given?.severity ?? 'warning'}>
          <option value="warning">everything from a warning on</option>
          <option value="critical">what is critical only</option>
        </select></label
      >
      <label class="muted grid gap-0.5"
        >on <select class="field w-44" name="gearKind" value={given?.scope.gearKind ?? ''}>
          <option value="">every kind of gear</option>
          {#each Object.entries(GEAR_KINDS) as [key, each] (key)}<option value={key}>{each.label}</option
            >{/each}
        </select></label
      >
      <ScopeField label="where" kinds={WHERES} {places} bind:kind={whereKind} bind:value={whereValue} />
    </div>
    <div class="flex flex-wrap items-end gap-2.5">
      <label class="muted grid gap-0.5"
        >hours <select class="field" name="always" bind:value={always}>
          <option value="always">at any hour</option>
          <option value="own">at these hours</option>
        </select></label
      >
      {#if always === 'own'}
        <fieldset class="flex gap-2 pb-1.5">
          <legend class="sr-only">Days</legend>
          {#each DAYS as day, index (day)}
            <label class="flex items-center gap-1"
              ><input type="checkbox" name="day-{index}" checked={hours.days.includes(index)} />{day}</label
            >
          {/each}
        </fieldset>
        <label class="muted grid gap-0.5"
          >from <input class="field w-20" name="hoursFrom" value={clock(hours.fromMinute)} /></label
        >
        <label class="muted grid gap-0.5"
          >to <input class="field w-20" name="hoursTo" value={clock(hours.toMinute)} /></label
        >
        <label class="muted grid gap-0.5"
          >outside of them <select class="field" name="outside" value={given?.outside ?? 'wait'}>
            <option value="wait">it waits until they begin</option>
            <option value="leave">this call-out says nothing</option>
          </select></label
        >
      {/if}
      <label class="muted grid gap-0.5"
        >one message of a trouble within <input
          class="field w-28"
          name="holdOff"
          value={given === null ? '15 min' : given.holdOffMs === 0 ? '0' : writeSpan(given.holdOffMs)}
        /></label
      >
      <label class="muted grid gap-0.5"
        >messages a minute, at most <input
          class="field w-20"
          name="mostAMinute"
          inputmode="numeric"
          value={given?.mostAMinute ?? USUAL_MOST_A_MINUTE}
        /></label
      >
      <label class="flex items-center gap-1.5 pb-1.5"
        ><input type="checkbox" name="tellsCleared" checked={given?.tellsCleared ?? true} /> tell when it is over,
        too</label
      >
    </div>
    <p class="muted">
      However often a trouble comes back within that time, it is told once, unless it gets worse; that it is
      over is told at the end of it. When more mails or texts of a step would go out in a minute than that,
      they go in one.
    </p>
  </section>

  <section class="panel grid gap-1" aria-label="Steps">
    <h2 class="panel-title">
      Steps <span>what waits for its turn is left out once somebody has taken the alert</span>
    </h2>
    {#each steps as step, index (step.key)}
      <div class="border-rule-2 grid gap-1 border-t py-2 first-of-type:border-t-0" data-testid="step">
        <div class="flex flex-wrap items-end gap-2.5">
          <label class="muted grid gap-0.5"
            >{index === 0 ? 'when' : 'still there after'}
            <input class="field w-28" name="after-{index}" bind:value={step.after} /></label
          >
          <label class="muted grid gap-0.5"
            >then <select class="field w-60" name="does-{index}" bind:value={step.does}>
              <option value="">choose</option>
              {#each channels as each (each.id)}<option value="channel {each.id}"
                  >{each.name}{each.name.toLowerCase() === CHANNEL_WORDS[each.kind]
                    ? ''
                    : ` (${CHANNEL_WORDS[each.kind]})`}</option
                >{/each}
              <option value="command">run an allowed command</option>
              <option value="stop">ask a gear to stop</option>
            </select></label
          >
          {#if reachesPeople(step)}
            <input type="hidden" name="reaches-{index}" value="people" />
            <label class="muted grid gap-0.5"
              >to <select class="field w-64" name="to-{index}" bind:value={step.to}>
                <option value="">choose</option>
                {#each teams as team (team.id)}
                  <option value="team {team.id}">all of the {team.name}</option>
                  <option value="duty {team.id}">who of the {team.name} is on duty</option>
                {/each}
              </select></label
            >
          {:else if step.does === 'command'}
            <label class="muted grid gap-0.5"
              >which <select class="field w-64" name="command-{index}" bind:value={step.command}>
                <option value="">choose</option>
                {#each commands as command (command.collector + command.name)}<option value={command.name}
                    >{command.name}</option
                  >{/each}
              </select></label
            >
          {:else if step.does === 'stop'}
            <label class="muted grid gap-0.5"
              >which <select class="field w-64" name="gear-{index}" bind:value={step.gear}>
                <option value="">the gear that it is about</option>
                {#each gear as each (each.id)}<option value={String(each.id)}>{each.name}</option>{/each}
              </select></label
            >
          {/if}
          <label class="flex items-center gap-1.5 pb-1.5"
            ><input type="checkbox" name="evenIfTaken-{index}" bind:checked={step.evenIfTaken} /> even if taken</label
          >
          {#if steps.length > 1}
            <button
              type="button"
              class="btn"
              aria-label="Leave out step {index + 1}"
              onclick={() => {
                steps = steps.filter(({ key }) => key !== step.key)
              }}>Leave out</button
            >
          {/if}
        </div>
        {#if step.does === 'stop' || step.does === 'command'}
          <div class="flex flex-wrap items-center gap-2" data-testid="step-rules">
            <input type="hidden" name="rules-{index}" value={step.rules.join(' ')} />
            <span class="muted">on alerts of</span>
            {#each step.rules as key (key)}
              <button
                type="button"
                class="border-rule border px-1.5"
                aria-label="Leave out the rule {ruleName(key)}"
                onclick={() => (step.rules = step.rules.filter((each) => each !== key))}
                >{ruleName(key)} ×</button
              >
            {/each}
            <select
              class="field w-64"
              aria-label="Rule of step {index + 1}"
              value=""
              onchange={(event) => {
                const key = event.currentTarget.value
                if (key !== '' && !step.rules.includes(key)) step.rules = [...step.rules, key]
                event.currentTarget.value = ''
              }}
            >
              <option value="">{step.rules.length === 0 ? 'choose a rule' : 'and another rule'}</option>
              {#each rules as rule (rule.key)}<option value={rule.key}>{rule.name}</option>{/each}
            </select>
          </div>
        {/if}
        <p class="muted" data-testid="step-words">{words(step)}</p>
      </div>
    {/each}
    <div>
      <button
        type="button"
        class="btn"
        onclick={() => {
          steps = [...steps, { ...first(), after: '10 min' }]
        }}>Add a step</button
      >
    </div>
    {#if commands.length === 0 && steps.some(({ does }) => does === 'command')}
      <p class="muted">
        No command is allowed. Who administers the machine of a collector allows one there, in commands.json
        beside its data; docs/callouts.md says how.
      </p>
    {/if}
  </section>

  <div class="flex gap-2.5">
    <button class="btn btn-strong">{kept === null ? 'Make the call-out' : 'Keep the changes'}</button>
    {#each dryable as index (index)}
      <button class="btn" formaction="?/dry" name="dry" value={index}>Dry run of step {index + 1}</button>
    {/each}
    {#if kept !== null}
      <button class="btn" formaction="?/switch" name="isOn" value={kept.isOn ? 'no' : 'yes'}
        >{kept.isOn ? 'Switch it off' : 'Switch it on'}</button
      >
      <button class="btn" formaction="?/remove">Delete it</button>
    {/if}
  </div>
  {#if dry !== null}
    <p role="status" data-testid="dry-outcome" class={['whitespace-pre-line', dry.isFailed && 'text-crit']}>
      Dry run: {dry.isOver ? dry.answer : 'under way …'}
    </p>
  {/if}
</form>
