<script lang="ts">
  import { invalidate } from '$app/navigation'
  import { formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { takeAlert } from '$lib/client/requests'
  import AlertLine from '$lib/components/alerts/AlertLine.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Rack from '$lib/components/site/Rack.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const racks = $derived(data.rooms.reduce((sum, room) => sum + room.racks.length, 0))
  let refusal = $state<string | null>(null)

  async function take(id: number): Promise<void> {
    const done = await takeAlert(id)
    refusal = done.kind === 'refused' ? done.message : null
    await invalidate('rack:alerts')
  }
</script>

<svelte:head><title>{data.sentence.headline} · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence"><b class="font-[760]">{data.sentence.headline}</b> {data.sentence.rest}</h1>

<div class="grid grid-cols-[minmax(0,1fr)_372px] items-start gap-4">
  <div class="grid gap-3.5">
    <section class="panel" aria-labelledby="now">
      <h2 class="panel-title" id="now">
        Needs you
        <span>{data.notes.join(' · ')}</span>
      </h2>
      {#if refusal !== null}<p class="text-crit mb-2" role="alert">{refusal}</p>{/if}
      <ul>
        {#each data.rows as row (row.id)}
          <AlertLine
            {row}
            nowMs={live.nowMs}
            {timeZone}
            window={data.window}
            take={data.mayTake ? take : null}
          />
        {:else}
          <li class="border-rule-2 muted flex items-center gap-2.5 border-t py-2.5">
            {#if data.shell.heard.sources === 0}
              Nothing is connected. <a class="link" href="/sources">Connect a first source</a> to see its gear here.
            {:else}
              <Glyph state="well" /> No rule holds on anything that is watched.
            {/if}
          </li>
        {/each}
      </ul>
    </section>
    <section class="panel" aria-labelledby="lately">
      <h2 class="panel-title" id="lately">Went away by itself <span>last 24 hours</span></h2>
      <ul>
        {#each data.cleared as { id, title, gearId, openedAtMs, clearedAtMs, lasted, takenBy } (id)}
          <li
            class="border-rule-2 muted grid grid-cols-[minmax(0,1fr)_auto] gap-3 border-t py-1.5"
            data-testid="cleared-row"
          >
            <a
              href={gearId === null ? '/sources' : `/gear/${gearId}`}
              class="text-ink truncate hover:underline">{title}</a
            >
            <span>
              {formatMoment(openedAtMs, live.nowMs, timeZone)} – {formatMoment(
                clearedAtMs,
                live.nowMs,
                timeZone,
              )}, {lasted}{takenBy === null ? '' : `, taken by ${takenBy}`}
            </span>
          </li>
        {:else}
          <li class="border-rule-2 muted border-t py-1.5">Nothing has come and gone.</li>
        {/each}
      </ul>
    </section>
  </div>

  <section class="panel" aria-labelledby="where">
    <h2 class="panel-title" id="where">
      Where
      {#if data.rooms.length === 1}<span>{data.rooms[0]?.name}</span>{/if}
    </h2>
    {#each data.rooms as room (room.id)}
      {#if data.rooms.length > 1}<p class="muted mt-1">{room.name}</p>{/if}
      <div class="flex flex-wrap gap-2">
        {#each room.racks as rack (rack.id)}
          {#if racks === 1}
            <Rack {rack} unitHeight={13} width={340} isNamed href="/rooms?room={room.id}&view=front" />
          {:else}
            <Rack
              {rack}
              unitHeight={racks <= 4 ? 9 : 4.7}
              width={racks <= 4 ? 160 : 26}
              isNamed={racks <= 4}
              href="/rooms?room={room.id}&view=front"
            />
          {/if}
        {/each}
      </div>
    {:else}
      <p class="muted">
        No room is drawn yet. <a class="link" href="/rooms">Rooms</a> is where racks are made.
      </p>
    {/each}
  </section>
</div>
