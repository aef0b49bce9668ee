<script lang="ts">
  import PanelTitle from '$lib/components/ui/PanelTitle.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import { invalidate } from '$app/navigation'
  import { formatDate, formatMoment } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { takeAlert } from '$lib/client/requests'
  import AlertLine from '$lib/components/alerts/AlertLine.svelte'
  import AlikeLine from '$lib/components/alerts/AlikeLine.svelte'
  import { toasts } from '$lib/components/ui/toasts.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Rack from '$lib/components/site/Rack.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const racks = $derived(data.rooms.reduce((sum, room) => sum + room.racks.length, 0))

  async function take(id: number): Promise<void> {
    const done = await takeAlert(id)
    if (done.kind === 'refused') void toasts.say({ text: done.message, kind: 'problem' })
    await invalidate('rack:alerts')
  }
  const taking = $derived(data.mayTake ? take : null)
</script>

<svelte:head><title>{data.sentence.headline} · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence"><b class="font-[760]">{data.sentence.headline}</b> {data.sentence.rest}</h1>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_372px]">
  <div class="grid gap-3.5">
    <Panel title="Needs you" note={data.notes.join(' · ')} id="now">
      <ul>
        {#each data.entries as entry (entry.kind === 'one' ? entry.row.id : entry.alike.rows[0]?.id)}
          {#if entry.kind === 'one'}
            <AlertLine row={entry.row} nowMs={live.nowMs} {timeZone} window={data.window} take={taking} />
          {:else}
            <AlikeLine alike={entry.alike} nowMs={live.nowMs} {timeZone} window={data.window} take={taking} />
          {/if}
        {:else}
          <li class="border-rule-2 text-ink-2 flex items-center gap-2.5 border-t py-2.5 text-xs">
            {#if data.shell.heard.sources === 0}
              Nothing is connected. <Link href="/sources">Connect a first source</Link> to see its gear here.
            {:else}
              <Glyph state="well" /> No open alerts.
            {/if}
          </li>
        {/each}
      </ul>
    </Panel>
    {#each data.asides as aside (aside.title)}
      <Panel title={aside.title} note={aside.note}>
        <ul>
          {#each aside.rows as { href, name, text, state, atMs } (href)}
            <li
              class="border-rule-2 text-ink-2 grid grid-cols-[minmax(0,1fr)_auto] gap-3 border-t py-1.5 text-xs"
              data-testid="aside-row"
              data-row
            >
              <span class="truncate">
                {#if state !== undefined}<Glyph {state} />{/if}
                <Link class="text-ink" {href}>{name}</Link>
                {text}
              </span>
              {#if atMs !== null}<span>{formatDate(atMs, timeZone)}</span>{/if}
            </li>
          {/each}
        </ul>
      </Panel>
    {/each}
    <Panel title="Cleared by itself" note="last 24 hours" id="lately">
      <ul>
        {#each data.cleared as { id, title, gearId, openedAtMs, clearedAtMs, lasted, takenBy } (id)}
          <li
            class="border-rule-2 text-ink-2 grid grid-cols-[minmax(0,1fr)_auto] gap-3 border-t py-1.5 text-xs"
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
          <li class="border-rule-2 text-ink-2 border-t py-1.5 text-xs">Nothing has come and gone.</li>
        {/each}
      </ul>
    </Panel>
  </div>

  <Panel>
    <PanelTitle id="where">
      Where
      {#if data.rooms.length === 1}<span>{data.rooms[0]?.name}</span>{/if}
    </PanelTitle>
    {#each data.rooms as room (room.id)}
      {#if data.rooms.length > 1}<p class="text-ink-2 mt-1 text-xs">{room.name}</p>{/if}
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
      <p class="text-ink-2 text-xs">
        No room is drawn yet. <Link href="/rooms">Rooms</Link> is where racks are made.
      </p>
    {/each}
  </Panel>
</div>
