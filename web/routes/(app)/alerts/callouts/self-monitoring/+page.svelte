<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { formatAgo } from '#core/units'
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
<Panel title="What alerting depends on" note="collectors, the database, and what messages leave by">
  <Form
    action="?/alarm"
    submit={() =>
      ({ update }) =>
        update({ reset: false })}
  >
    <Table>
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
              <Combobox
                class="w-56"
                name={part.key}
                aria-label="What {part.name} runs on"
                defaultValue={part.gearId === null ? '' : String(part.gearId)}
                options={[
                  { value: '', label: part.what === 'channel' ? 'elsewhere' : 'not said yet' },
                  ...data.gear.map((each) => ({ value: String(each.id), label: each.name })),
                ]}
              />
            </td>
            {#each data.ups as ups (ups.id)}
              <td class="text-ink-2 text-xs">
                {#if part.upsIds.length === 1 && part.upsIds[0] === ups.id}
                  <span class="text-crit inline-flex items-center gap-1.5"
                    ><Glyph state="critical" label="Runs on it" /> goes with it</span
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
    </Table>
    <div class="mt-3 flex items-center gap-3">
      <Button look="strong">Save</Button>
      {#if data.ownGearId !== null}<Link href="/gear/{data.ownGearId}">Its own health, with curves</Link>{/if}
    </div>
  </Form>
</Panel>
<Panel
  title="Heartbeats"
  note="somebody else notices when this installation says nothing any more, and the other way round"
>
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
        <span class="text-ink-2 text-xs">{standing(beat)}{beat.url === null ? '' : `; ${beat.url}`}</span>
        <Form action="?/end" class="ml-auto">
          <input type="hidden" name="id" value={beat.id} /><Button>Delete</Button>
        </Form>
      </li>
    {:else}<li class="text-ink-2 text-xs">
        None yet: should this installation die as a whole, nobody is notified.
      </li>{/each}
  </ul>
  <Form action="?/out" class="border-rule-2 mt-2 flex flex-wrap items-end gap-2.5 border-t pt-2.5">
    <Input label="Send to" class="w-44" name="name" required />
    <Input label="Address" class="w-80" name="url" required />
    <Input label="Interval (s)" class="w-20" name="seconds" defaultValue="60" />
    <Input label="Token" class="w-44" name="password" type="password" autocomplete="new-password" />
    <Button>Send heartbeats</Button>
  </Form>
  <Form action="?/in" class="mt-2 flex flex-wrap items-end gap-2.5">
    <Input label="Expect from" class="w-44" name="name" required />
    <Input label="Interval (s)" class="w-20" name="seconds" defaultValue="60" />
    <Button>Expect heartbeats</Button>
  </Form>
</Panel>
