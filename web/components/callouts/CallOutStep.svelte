<script lang="ts">
  import { CHANNEL_WORDS } from '#core/callouts'
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Combobox from '../ui/Combobox.svelte'
  import Input from '../ui/Input.svelte'
  import Select from '../ui/Select.svelte'
  import { channelOf, type StepChoices, type StepRow, stepWords } from './stepRow'

  /** One step of a call-out: when, what, and to whom. */
  let {
    step = $bindable(),
    index,
    choices,
    remove,
  }: { step: StepRow; index: number; choices: StepChoices; remove: (() => void) | null } = $props()
  const reachesPeople = $derived(['mail', 'text'].includes(channelOf(step, choices) ?? ''))
  const ruleName = (key: string): string =>
    choices.rules.find((each) => each.key === key)?.name ?? 'a rule that is gone'
</script>

<div class={['grid gap-1 py-2', index > 0 && 'border-rule-2 border-t']} data-testid="step">
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
        ...choices.channels.map((each) => ({
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
    {#if reachesPeople}
      <input type="hidden" name="reaches-{index}" value="people" />
      <Select
        label="Recipients"
        class="w-64"
        name="to-{index}"
        bind:value={step.to}
        options={[
          ...choices.teams.flatMap((team) => [
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
        options={choices.commands.map(({ name }) => ({ value: name, label: name }))}
      />
    {:else if step.does === 'stop'}
      <Combobox
        label="Gear to stop"
        class="w-64"
        name="gear-{index}"
        bind:value={step.gear}
        options={[
          { value: '', label: 'the gear that it is about' },
          ...choices.gear.map((each) => ({ value: String(each.id), label: each.name })),
        ]}
      />
    {/if}
    <Checkbox label="Also when taken" name="evenIfTaken-{index}" bind:checked={step.evenIfTaken} />
    {#if remove !== null}
      <Button type="button" aria-label="Leave out step {index + 1}" onclick={remove}>Remove step</Button>
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
          onclick={() => (step.rules = step.rules.filter((each) => each !== key))}>{ruleName(key)} ×</Button
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
        options={choices.rules.map((rule) => ({ value: rule.key, label: rule.name }))}
      />
    </div>
  {/if}
  <p class="text-ink-2 text-xs" data-testid="step-words">{stepWords(step, choices)}</p>
</div>
