<script lang="ts">
  import { GEAR_KINDS } from '#core/catalogue'
  import { GEAR_STATES, STATE_WORDS } from '#core/gear'
  import { type RoomView, unitLabel } from '#core/site'
  import Glyph from '../ui/Glyph.svelte'
  import Panel from '../ui/Panel.svelte'

  /** What of a room is not well, the worst first. */
  let { room }: { room: RoomView } = $props()
  const bad = $derived(
    [
      ...room.racks.flatMap((rack) =>
        rack.gear.map((gear) => ({ ...gear, place: `${rack.name} · ${unitLabel(gear)}` })),
      ),
      ...room.floor.map((gear) => ({ ...gear, place: GEAR_KINDS[gear.kind].label.toLowerCase() })),
    ]
      .filter(({ state }) => state !== 'well')
      .sort((one, other) => GEAR_STATES.indexOf(one.state) - GEAR_STATES.indexOf(other.state)),
  )
</script>

<Panel title="Needs attention" note={bad.length === 0 ? '' : bad.length} id="waits">
  <ul>
    {#each bad as each (each.id)}
      <li class="border-rule-2 border-t py-1.5" data-row>
        <a
          href="/gear/{each.id}"
          class="grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-1 hover:underline"
        >
          <Glyph state={each.state} />
          <span class="min-w-0"
            ><b class="font-[640]">{each.name}</b>
            <span class="place inline-block">{each.place}</span></span
          >
          <span class="text-ink-2 text-xs">{STATE_WORDS[each.state]}</span>
        </a>
      </li>
    {:else}
      <li class="text-ink-2 text-xs">Nothing here needs anybody.</li>
    {/each}
  </ul>
</Panel>
