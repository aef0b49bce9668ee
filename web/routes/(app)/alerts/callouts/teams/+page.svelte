<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import DateTimeInput from '$lib/components/ui/DateTimeInput.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import DutyBands from '$lib/components/callouts/DutyBands.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const moment = (atMs: number): string => formatMoment(atMs, live.nowMs, timeZone)
  const nameOf = (id: number): string => data.people.find((each) => each.id === id)?.name ?? 'somebody'
  const clock = (minute: number): string =>
    `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
  const onDuty = $derived(data.teams.filter(({ onDutyId }) => onDutyId !== null))
  const sentence = $derived(
    data.teams.length === 0
      ? 'There is no team yet. Enter people, then put them together: a message goes to a team.'
      : `${data.people.length} people in ${data.teams.length} ${data.teams.length === 1 ? 'team' : 'teams'}. ${
          onDuty.length === 0
            ? 'None has a duty calendar.'
            : onDuty.map((team) => `${nameOf(team.onDutyId!)} of the ${team.name} is on duty.`).join(' ')
        }`,
  )
  const messageFor = (about: string): string | null => (form?.about === about ? form.message : null)
  /** In the order of their turns; who has none comes after them. */
  const slots = (team: (typeof data.teams)[number]): (number | null)[] => {
    const turns: (number | null)[] = [...(team.duty?.personIds ?? [])]
    while (turns.length < team.personIds.length) turns.push(null)
    return turns
  }
</script>

<svelte:head><title>Teams and duty · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>
<AlertTabs />
{#each data.teams as team (team.id)}
  <Panel
    title={team.name}
    note={team.onDutyId === null ? 'all of them are on duty' : `${nameOf(team.onDutyId)} is on duty`}
    class="grid gap-3"
    aria-label={team.name}
    data-testid="team"
  >
    {#if messageFor(`team ${team.id}`) !== null}<p class="text-crit" role="alert">
        {messageFor(`team ${team.id}`)}
      </p>{/if}
    {#if team.turns.length > 0}<DutyBands turns={team.turns} window={data.window} {timeZone} />{/if}
    <div class="flex flex-wrap items-end gap-2.5">
      <Form
        action="?/team"
        submit={() =>
          ({ update }) =>
            update({ reset: false })}
        class="flex flex-wrap items-end gap-2.5"
      >
        <input type="hidden" name="id" value={team.id} />
        <Input label="Name" class="w-44" name="name" required maxlength="60" defaultValue={team.name} />
        <fieldset class="flex flex-wrap gap-3 pb-1.5">
          <legend class="sr-only">People of the {team.name}</legend>
          {#each data.people as person (person.id)}
            <Checkbox
              label={person.name}
              name="person"
              value={String(person.id)}
              defaultChecked={team.personIds.includes(person.id)}
            />
          {/each}
        </fieldset>
        <Button>Save team</Button>
      </Form>
      <Form action="?/removeTeam">
        <input type="hidden" name="id" value={team.id} /><Button>Remove</Button>
      </Form>
    </div>
    {#if team.personIds.length > 0}
      <Form
        action="?/duty"
        submit={() =>
          ({ update }) =>
            update({ reset: false })}
        class="border-rule-2 flex flex-wrap items-end gap-2.5 border-t pt-2.5"
      >
        <input type="hidden" name="id" value={team.id} />
        {#each slots(team) as personId, index (index)}
          <Select
            label={index === 0 ? 'First turn' : 'Next turn'}
            name="turn"
            defaultValue={personId === null ? '' : String(personId)}
            options={[
              { value: '', label: 'nobody' },
              ...team.personIds.map((id) => ({ value: String(id), label: nameOf(id) })),
            ]}
          />
        {/each}
        <Input
          label="Days per turn"
          class="w-16"
          name="turnDays"
          inputmode="numeric"
          defaultValue={team.duty?.turnDays ?? 7}
        />
        <Input
          label="First day"
          type="date"
          name="firstDay"
          defaultValue={team.duty?.firstDay ?? data.today}
        />
        <Input
          label="Handover time"
          class="w-20"
          name="handOver"
          defaultValue={clock(team.duty?.handOverMinute ?? 480)}
        />
        <span class="basis-full"></span>
        <Select
          label="Location"
          name="swapPerson"
          options={[
            { value: '', label: 'nobody more' },
            ...team.personIds.map((id) => ({ value: String(id), label: nameOf(id) })),
          ]}
        />
        <DateTimeInput label="From" name="swapFrom" />
        <DateTimeInput label="To" name="swapTo" />
        {#each team.duty?.swaps ?? [] as swap, index (index)}
          <Checkbox
            label={`not any more: ${nameOf(swap.personId)}, ${moment(swap.fromMs)} to ${moment(swap.toMs)}`}
            name="drop-{index}"
          />
        {/each}
        <Button look="strong">Save calendar</Button>
      </Form>
    {/if}
  </Panel>
{/each}
<Panel title="Add team">
  {#if messageFor('team ') !== null}<p class="text-crit mb-2" role="alert">{messageFor('team ')}</p>{/if}
  <Form action="?/team" class="flex flex-wrap items-end gap-2.5">
    <Input label="Name" class="w-44" name="name" required maxlength="60" />
    <fieldset class="flex flex-wrap gap-3 pb-1.5">
      <legend class="sr-only">People of the new team</legend>
      {#each data.people as person (person.id)}
        <Checkbox label={person.name} name="person" value={String(person.id)} />
      {/each}
    </fieldset>
    <Button look="strong">Add team</Button>
  </Form>
</Panel>
<Panel title="People" note="who can be told; they need no account to sign in">
  {#if messageFor('people') !== null}<p class="text-crit mb-2" role="alert">{messageFor('people')}</p>{/if}
  <ul>
    {#each data.people as person (person.id)}
      <li class="border-rule-2 flex items-end gap-2.5 border-t py-1.5 first:border-t-0">
        <Form
          action="?/person"
          submit={() =>
            ({ update }) =>
              update({ reset: false })}
          class="flex gap-2.5"
        >
          <input type="hidden" name="id" value={String(person.id)} />
          <Input class="w-44" name="name" aria-label="Name" required defaultValue={person.name} />
          <Input
            class="w-64"
            name="email"
            aria-label="Mail address of {person.name}"
            defaultValue={person.email ?? ''}
          />
          <Input
            class="w-44"
            name="phone"
            aria-label="Telephone of {person.name}"
            defaultValue={person.phone ?? ''}
          />
          <Button>Save</Button>
        </Form>
        <Form action="?/removePerson">
          <input type="hidden" name="id" value={String(person.id)} /><Button>Remove</Button>
        </Form>
      </li>
    {/each}
  </ul>
  <Form action="?/person" class="border-rule-2 mt-2 flex flex-wrap items-end gap-2.5 border-t pt-2.5">
    <Input label="Name" class="w-44" name="name" required />
    <Input label="Mail address" class="w-64" name="email" type="email" />
    <Input label="Telephone" class="w-44" name="phone" />
    <Button look="strong">Enter</Button>
  </Form>
</Panel>
