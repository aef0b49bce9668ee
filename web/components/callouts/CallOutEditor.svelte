<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Sortable from '../ui/Sortable.svelte'
  import Input from '../ui/Input.svelte'
  import { untrack } from 'svelte'
  import { type CallOut, USUAL_MOST_A_MINUTE } from '#core/callouts'
  import { GEAR_KINDS } from '#core/catalogue'
  import { fieldsOfWhere } from '#core/rules'
  import { writeSpan } from '#core/units'
  import CallOutStep from './CallOutStep.svelte'
  import { newStep, type StepChoices, stepRow } from './stepRow'
  import ScopeField, { type Places } from '../rules/ScopeField.svelte'

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
  }: StepChoices & {
    callOut: CallOut | null
    kept: { readonly id: number; readonly isOn: boolean; readonly name: string } | null
    places: Places
    message: string | null
    dry: { readonly isOver: boolean; readonly answer: string | null; readonly isFailed: boolean } | null
  } = $props()

  const choices = $derived({ channels, teams, commands, gear, rules })
  const given = untrack(() => callOut)
  let steps = $state(untrack(() => given?.steps.map(stepRow) ?? [newStep(choices, 'at once')]))
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
    <Sortable bind:items={steps} name="Steps" labelOf={(_, index) => `step ${index + 1}`}>
      {#snippet row(step, index)}
        <CallOutStep
          bind:step={() => step, (next) => (steps[index] = next)}
          {index}
          {choices}
          remove={steps.length > 1 ? () => (steps = steps.filter(({ key }) => key !== step.key)) : null}
        />
      {/snippet}
    </Sortable>
    <div>
      <Button
        type="button"
        onclick={() => {
          steps = [...steps, newStep(choices, '10 min')]
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
