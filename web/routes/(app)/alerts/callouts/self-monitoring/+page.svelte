<script lang="ts">
  import { formatAgo } from '#core/units'
  import { enhance } from '$lib/client/forms'
  import { useLive } from '$lib/client/live.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const silenced = $derived(data.sentences.filter(({ isSilenced }) => isSilenced))
  const unsaid = $derived(data.parts.filter(({ gearId, what }) => gearId === null && what !== 'channel'))
  const sentence = $derived(
    silenced.length > 0
      ? silenced.map((each) => each.sentence).join(' ')
      : data.ups.length === 0
        ? 'No UPS is known yet, so it cannot be said what the alarm hangs on.'
        : unsaid.length > 0
          ? `It is not said yet what ${unsaid.map(({ name, what }) => (what === 'database' ? 'the database' : name)).join(' and ')} run${unsaid.length === 1 ? 's' : ''} on.`
          : 'Whichever UPS fails, it can still be told.',
  )
  const milder = $derived(data.sentences.filter(({ isSilenced }) => !isSilenced))
  const gearName = (id: number): string => data.gear.find((each) => each.id === id)?.name ?? ''
  function standing(beat: (typeof data.beats)[number]): string {
    const every = `every ${beat.intervalSeconds} s`
    const last = beat.throughAtMs === null ? 'never yet' : formatAgo(beat.throughAtMs, live.nowMs)
    return beat.direction === 'out'
      ? `${every}; last through ${last}${beat.missed > 0 ? `; ${beat.missed} missed: ${beat.answer ?? ''}` : ''}`
      : `expected ${every}; last heard ${last}${beat.missed > 0 ? `; ${beat.missed} missed` : ''}`
  }
</script>

<svelte:head><title>Self-monitoring · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>
<AlertTabs />
{#each milder as { sentence: words } (words)}<p class="flex items-baseline gap-2">
    <Glyph state="warning" label="weak" />
    {words}
  </p>{/each}
<section class="panel" aria-label="What the alarm hangs on">
  <h2 class="panel-title">
    What the alarm hangs on <span>collectors, the database, and what messages leave by</span>
  </h2>
  <form
    method="POST"
    action="?/alarm"
    use:enhance={() =>
      ({ update }) =>
        update({ reset: false })}
  >
    <table class="ledger">
      <thead
        ><tr
          ><th>Part</th><th>runs on</th>{#each data.ups as ups (ups.id)}<th>should {ups.name} fail</th
            >{/each}</tr
        ></thead
      >
      <tbody>
        {#each data.parts as part (part.key)}
          <tr data-testid="alarm-part">
            <td class="font-[620]">{part.name}</td>
            <td>
              <select
                class="field w-56"
                name={part.key}
                aria-label="What {part.name} runs on"
                value={part.gearId === null ? '' : String(part.gearId)}
              >
                <option value="">{part.what === 'channel' ? 'elsewhere' : 'not said yet'}</option>
                {#each data.gear as each (each.id)}<option value={String(each.id)}>{each.name}</option>{/each}
              </select>
            </td>
            {#each data.ups as ups (ups.id)}
              <td class="muted">
                {#if part.upsIds.length === 1 && part.upsIds[0] === ups.id}
                  <span class="text-crit inline-flex items-center gap-1.5"
                    ><Glyph state="critical" label="goes with it" /> goes with it</span
                  >
                {:else if part.upsIds.includes(ups.id)}
                  fed by {part.upsIds
                    .filter((id) => id !== ups.id)
                    .map(gearName)
                    .join(', ')}
                {:else if part.gearId === null}
                  {part.what === 'channel' ? 'not on it' : 'not known'}
                {:else}not on it{/if}
              </td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
    <div class="mt-3 flex items-center gap-3">
      <button class="btn btn-strong">Keep</button>
      {#if data.ownGearId !== null}<a class="link" href="/gear/{data.ownGearId}"
          >Its own health, with curves</a
        >{/if}
    </div>
  </form>
</section>
<section class="panel" aria-label="Heartbeats">
  <h2 class="panel-title">
    Heartbeats <span
      >somebody else notices when this installation says nothing any more, and the other way round</span
    >
  </h2>
  {#if form?.about === 'beats' && form.message !== null}<p class="text-crit mb-2" role="alert">
      {form.message}
    </p>{/if}
  {#if form?.token}
    <p class="mb-2" role="status">
      The other installation posts to <span class="place">/heartbeat</span> of the receiver here, with this
      token. It is shown once: <b class="place" data-testid="beat-token">{form.token}</b>
    </p>
  {/if}
  <ul>
    {#each data.beats as beat (beat.id)}
      <li class="border-rule-2 flex items-center gap-2.5 border-t py-1.5 first:border-t-0" data-testid="beat">
        <Glyph state={beat.missed > 2 ? 'critical' : 'well'} label={beat.missed > 2 ? 'missed' : 'well'} />
        <b class="font-[620]">{beat.direction === 'out' ? 'to' : 'from'} {beat.name}</b>
        <span class="muted">{standing(beat)}{beat.url === null ? '' : `; ${beat.url}`}</span>
        <form method="POST" action="?/end" use:enhance class="ml-auto">
          <input type="hidden" name="id" value={beat.id} /><button class="btn">End it</button>
        </form>
      </li>
    {:else}<li class="muted">None yet: should this installation die as a whole, nobody is told.</li>{/each}
  </ul>
  <form
    method="POST"
    action="?/out"
    use:enhance
    class="border-rule-2 mt-2 flex flex-wrap items-end gap-2.5 border-t pt-2.5"
  >
    <label class="muted grid gap-0.5">Send to <input class="field w-44" name="name" required /></label>
    <label class="muted grid gap-0.5">at the address <input class="field w-80" name="url" required /></label>
    <label class="muted grid gap-0.5"
      >every, in seconds <input class="field w-20" name="seconds" value="60" /></label
    >
    <label class="muted grid gap-0.5"
      >with the token <input
        class="field w-44"
        name="password"
        type="password"
        autocomplete="new-password"
      /></label
    >
    <button class="btn">Send heartbeats</button>
  </form>
  <form method="POST" action="?/in" use:enhance class="mt-2 flex flex-wrap items-end gap-2.5">
    <label class="muted grid gap-0.5">Expect from <input class="field w-44" name="name" required /></label>
    <label class="muted grid gap-0.5"
      >every, in seconds <input class="field w-20" name="seconds" value="60" /></label
    >
    <button class="btn">Expect heartbeats</button>
  </form>
</section>
