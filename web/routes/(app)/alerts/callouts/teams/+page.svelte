<script lang="ts">
  import { formatMoment } from '#core/units'
  import { enhance } from '$lib/client/forms'
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
  <section class="panel grid gap-3" aria-label={team.name} data-testid="team">
    <h2 class="panel-title">
      {team.name}
      <span>{team.onDutyId === null ? 'all of them are on duty' : `${nameOf(team.onDutyId)} is on duty`}</span
      >
    </h2>
    {#if messageFor(`team ${team.id}`) !== null}<p class="text-crit" role="alert">
        {messageFor(`team ${team.id}`)}
      </p>{/if}
    {#if team.turns.length > 0}<DutyBands turns={team.turns} window={data.window} {timeZone} />{/if}
    <div class="flex flex-wrap items-end gap-2.5">
      <form
        method="POST"
        action="?/team"
        use:enhance={() =>
          ({ update }) =>
            update({ reset: false })}
        class="flex flex-wrap items-end gap-2.5"
      >
        <input type="hidden" name="id" value={team.id} />
        <label class="muted grid gap-0.5"
          >Name <input class="field w-44" name="name" required maxlength="60" value={team.name} /></label
        >
        <fieldset class="flex flex-wrap gap-3 pb-1.5">
          <legend class="sr-only">People of the {team.name}</legend>
          {#each data.people as person (person.id)}
            <label class="flex items-center gap-1"
              ><input
                type="checkbox"
                name="person"
                value={person.id}
                checked={team.personIds.includes(person.id)}
              />{person.name}</label
            >
          {/each}
        </fieldset>
        <button class="btn">Keep the team</button>
      </form>
      <form method="POST" action="?/removeTeam" use:enhance>
        <input type="hidden" name="id" value={team.id} /><button class="btn">Remove</button>
      </form>
    </div>
    {#if team.personIds.length > 0}
      <form
        method="POST"
        action="?/duty"
        use:enhance={() =>
          ({ update }) =>
            update({ reset: false })}
        class="border-rule-2 flex flex-wrap items-end gap-2.5 border-t pt-2.5"
      >
        <input type="hidden" name="id" value={team.id} />
        {#each slots(team) as personId, index (index)}
          <label class="muted grid gap-0.5"
            >{index === 0 ? 'First turn' : `then`}
            <select class="field" name="turn" value={personId === null ? '' : String(personId)}>
              <option value="">nobody</option>
              {#each team.personIds as id (id)}<option value={String(id)}>{nameOf(id)}</option>{/each}
            </select></label
          >
        {/each}
        <label class="muted grid gap-0.5"
          >days each <input
            class="field w-16"
            name="turnDays"
            inputmode="numeric"
            value={team.duty?.turnDays ?? 7}
          /></label
        >
        <label class="muted grid gap-0.5"
          >counted from <input
            class="field"
            type="date"
            name="firstDay"
            value={team.duty?.firstDay ?? data.today}
          /></label
        >
        <label class="muted grid gap-0.5"
          >hand over at <input
            class="field w-20"
            name="handOver"
            value={clock(team.duty?.handOverMinute ?? 480)}
          /></label
        >
        <span class="basis-full"></span>
        <label class="muted grid gap-0.5"
          >stands in <select class="field" name="swapPerson">
            <option value="">nobody more</option>
            {#each team.personIds as id (id)}<option value={String(id)}>{nameOf(id)}</option>{/each}
          </select></label
        >
        <label class="muted grid gap-0.5"
          >from <input class="field" type="datetime-local" name="swapFrom" /></label
        >
        <label class="muted grid gap-0.5"
          >to <input class="field" type="datetime-local" name="swapTo" /></label
        >
        {#each team.duty?.swaps ?? [] as swap, index (index)}
          <label class="flex items-center gap-1 pb-1.5"
            ><input type="checkbox" name="drop-{index}" />not any more: {nameOf(swap.personId)}, {moment(
              swap.fromMs,
            )} to {moment(swap.toMs)}</label
          >
        {/each}
        <button class="btn btn-strong">Keep the calendar</button>
      </form>
    {/if}
  </section>
{/each}
<section class="panel" aria-label="Another team">
  <h2 class="panel-title">Another team</h2>
  {#if messageFor('team ') !== null}<p class="text-crit mb-2" role="alert">{messageFor('team ')}</p>{/if}
  <form method="POST" action="?/team" use:enhance class="flex flex-wrap items-end gap-2.5">
    <label class="muted grid gap-0.5"
      >Name <input class="field w-44" name="name" required maxlength="60" /></label
    >
    <fieldset class="flex flex-wrap gap-3 pb-1.5">
      <legend class="sr-only">People of the new team</legend>
      {#each data.people as person (person.id)}
        <label class="flex items-center gap-1"
          ><input type="checkbox" name="person" value={person.id} />{person.name}</label
        >
      {/each}
    </fieldset>
    <button class="btn btn-strong">Make the team</button>
  </form>
</section>
<section class="panel" aria-label="People">
  <h2 class="panel-title">People <span>who can be told; they need no account to sign in</span></h2>
  {#if messageFor('people') !== null}<p class="text-crit mb-2" role="alert">{messageFor('people')}</p>{/if}
  <ul>
    {#each data.people as person (person.id)}
      <li class="border-rule-2 flex items-end gap-2.5 border-t py-1.5 first:border-t-0">
        <form
          method="POST"
          action="?/person"
          use:enhance={() =>
            ({ update }) =>
              update({ reset: false })}
          class="flex gap-2.5"
        >
          <input type="hidden" name="id" value={person.id} />
          <input class="field w-44" name="name" aria-label="Name" required value={person.name} />
          <input
            class="field w-64"
            name="email"
            aria-label="Mail address of {person.name}"
            value={person.email ?? ''}
          />
          <input
            class="field w-44"
            name="phone"
            aria-label="Telephone of {person.name}"
            value={person.phone ?? ''}
          />
          <button class="btn">Keep</button>
        </form>
        <form method="POST" action="?/removePerson" use:enhance>
          <input type="hidden" name="id" value={person.id} /><button class="btn">Take out</button>
        </form>
      </li>
    {/each}
  </ul>
  <form
    method="POST"
    action="?/person"
    use:enhance
    class="border-rule-2 mt-2 flex flex-wrap items-end gap-2.5 border-t pt-2.5"
  >
    <label class="muted grid gap-0.5">Name <input class="field w-44" name="name" required /></label>
    <label class="muted grid gap-0.5"
      >Mail address <input class="field w-64" name="email" type="email" /></label
    >
    <label class="muted grid gap-0.5"
      >Telephone, as +47 555 0102 <input class="field w-44" name="phone" /></label
    >
    <button class="btn btn-strong">Enter</button>
  </form>
</section>
