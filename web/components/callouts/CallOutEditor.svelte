<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Combobox from '../ui/Combobox.svelte'
  import Input from '../ui/Input.svelte'
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
<Form
  action="?/save"
  submit={() =>
    ({ update }) =>
      update({ reset: false })}
  class="grid gap-4"
>
  <Panel title="What it is for" class="grid gap-3">
    <div class="flex flex-wrap items-end gap-2.5">
      <Input label="Name" class="w-72" name="name" required maxlength="80" defaultValue={given?.name ?? ''} />
      <Select
        label="Severity"
        name="severity"
        defaultValue={given?.severity ?? 'warning'}
        options={[
          { value: 'warning', label: 'everything from a warning on' },
          { value: 'critical', label: 'what is critical only' },
        ]}
      />
      <Select
        label="Kind"
        class="w-44"
        name="gearKind"
        defaultValue={given?.scope.gearKind ?? ''}
        options={[
          { value: '', label: 'every kind of gear' },
          ...Object.entries(GEAR_KINDS).map(([key, each]) => ({ value: key, label: each.label })),
        ]}
      />
      <ScopeField label="Scope" kinds={WHERES} {places} bind:kind={whereKind} bind:value={whereValue} />
    </div>
    <div class="flex flex-wrap items-end gap-2.5">
      <Select
        label="Hours"
        name="always"
        bind:value={always}
        options={[
          { value: 'always', label: 'at any hour' },
          { value: 'own', label: 'at these hours' },
        ]}
      />
      {#if always === 'own'}
        <fieldset class="flex gap-2 pb-1.5">
          <legend class="sr-only">Days</legend>
          {#each DAYS as day, index (day)}
            <Checkbox label={day} name="day-{index}" defaultChecked={hours.days.includes(index)} />
          {/each}
        </fieldset>
        <Input label="From" class="w-20" name="hoursFrom" defaultValue={clock(hours.fromMinute)} />
        <Input label="To" class="w-20" name="hoursTo" defaultValue={clock(hours.toMinute)} />
        <Select
          label="Outside these hours"
          name="outside"
          defaultValue={given?.outside ?? 'wait'}
          options={[
            { value: 'wait', label: 'it waits until they begin' },
            { value: 'leave', label: 'this call-out says nothing' },
          ]}
        />
      {/if}
      <Input
        label="Hold-off"
        class="w-28"
        name="holdOff"
        defaultValue={given === null ? '15 min' : given.holdOffMs === 0 ? '0' : writeSpan(given.holdOffMs)}
      />
      <Input
        label="Messages per minute (limit)"
        class="w-20"
        name="mostAMinute"
        inputmode="numeric"
        defaultValue={given?.mostAMinute ?? USUAL_MOST_A_MINUTE}
      />
      <Checkbox
        label="Notify when it has cleared"
        name="tellsCleared"
        defaultChecked={given?.tellsCleared ?? true}
      />
    </div>
    <p class="text-ink-2 text-xs">
      However often a trouble comes back within that time, it is told once, unless it gets worse; that it is
      over is told at the end of it. When more mails or texts of a step would go out in a minute than that,
      they go in one.
    </p>
  </Panel>

  <Panel
    title="Steps"
    note="what waits for its turn is left out once somebody has taken the alert"
    class="grid gap-1"
  >
    {#each steps as step, index (step.key)}
      <div class="border-rule-2 grid gap-1 border-t py-2 first-of-type:border-t-0" data-testid="step">
        <div class="flex flex-wrap items-end gap-2.5">
          <Input
            label={`${index === 0 ? 'When' : 'Still open after'}`}
            class="w-28"
            name="after-{index}"
            bind:value={step.after}
          />
          <Select
            label="Action"
            class="w-60"
            name="does-{index}"
            bind:value={step.does}
            options={[
              ...channels.map((each) => ({
                value: `channel ${each.id}`,
                label:
                  each.name.toLowerCase() === CHANNEL_WORDS[each.kind]
                    ? each.name
                    : `${each.name} (${CHANNEL_WORDS[each.kind]})`,
              })),
              { value: 'command', label: 'run an allowed command' },
              { value: 'stop', label: 'ask a gear to stop' },
            ]}
          />
          {#if reachesPeople(step)}
            <input type="hidden" name="reaches-{index}" value="people" />
            <Select
              label="Recipients"
              class="w-64"
              name="to-{index}"
              bind:value={step.to}
              options={[
                ...teams.flatMap((team) => [
                  { value: `team ${team.id}`, label: `all of the ${team.name}` },
                  { value: `duty ${team.id}`, label: `who of the ${team.name} is on duty` },
                ]),
              ]}
            />
          {:else if step.does === 'command'}
            <Select
              label="Command"
              class="w-64"
              name="command-{index}"
              bind:value={step.command}
              options={commands.map(({ name }) => ({ value: name, label: name }))}
            />
          {:else if step.does === 'stop'}
            <Combobox
              label="Gear to stop"
              class="w-64"
              name="gear-{index}"
              bind:value={step.gear}
              options={[
                { value: '', label: 'the gear that it is about' },
                ...gear.map((each) => ({ value: String(each.id), label: each.name })),
              ]}
            />
          {/if}
          <Checkbox label="Also when taken" name="evenIfTaken-{index}" bind:checked={step.evenIfTaken} />
          {#if steps.length > 1}
            <Button
              type="button"
              aria-label="Leave out step {index + 1}"
              onclick={() => {
                steps = steps.filter(({ key }) => key !== step.key)
              }}>Remove step</Button
            >
          {/if}
        </div>
        {#if step.does === 'stop' || step.does === 'command'}
          <div class="flex flex-wrap items-center gap-2" data-testid="step-rules">
            <input type="hidden" name="rules-{index}" value={step.rules.join(' ')} />
            <span class="text-ink-2 text-xs">on alerts of</span>
            {#each step.rules as key (key)}
              <Button
                look="bare"
                type="button"
                class="border-rule border px-1.5"
                aria-label="Leave out the rule {ruleName(key)}"
                onclick={() => (step.rules = step.rules.filter((each) => each !== key))}
                >{ruleName(key)} ×</Button
              >
            {/each}
            <Combobox
              class="w-64"
              aria-label="Rule of step {index + 1}"
              bind:value={
                () => '',
                (key) => {
                  if (key !== '' && !step.rules.includes(key)) step.rules = [...step.rules, key]
                }
              }
              placeholder={step.rules.length === 0 ? 'Add a rule' : 'Add another rule'}
              options={rules.map((rule) => ({ value: rule.key, label: rule.name }))}
            />
          </div>
        {/if}
        <p class="text-ink-2 text-xs" data-testid="step-words">{words(step)}</p>
      </div>
    {/each}
    <div>
      <Button
        type="button"
        onclick={() => {
          steps = [...steps, { ...first(), after: '10 min' }]
        }}>Add a step</Button
      >
    </div>
    {#if commands.length === 0 && steps.some(({ does }) => does === 'command')}
      <p class="text-ink-2 text-xs">
        No command is allowed. Who administers the machine of a collector allows one there, in commands.json
        beside its data; docs/callouts.md says how.
      </p>
    {/if}
  </Panel>

  <div class="flex gap-2.5">
    <Button look="strong">{kept === null ? 'Add call-out' : 'Save changes'}</Button>
    {#each dryable as index (index)}
      <Button formaction="?/dry" name="dry" value={index}>Dry run of step {index + 1}</Button>
    {/each}
    {#if kept !== null}
      <Button formaction="?/switch" name="isOn" value={kept.isOn ? 'no' : 'yes'}
        >{kept.isOn ? 'Switch it off' : 'Switch it on'}</Button
      >
      <Button formaction="?/remove">Delete call-out</Button>
    {/if}
  </div>
  {#if dry !== null}
    <p role="status" data-testid="dry-outcome" class={['whitespace-pre-line', dry.isFailed && 'text-crit']}>
      Dry run: {dry.isOver ? dry.answer : 'under way …'}
    </p>
  {/if}
</Form>
