<script lang="ts">
  import { enhance } from '$app/forms'
  import { GEAR_KINDS } from '#core/measures'
  import { listNames } from '#core/rules'
  import Glyph from '$lib/components/Glyph.svelte'
  import Rack from '$lib/components/Rack.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  const gear = $derived(
    data.rooms.flatMap((room) =>
      room.racks.flatMap((rack) => rack.gear.map((each) => ({ ...each, rack: rack.name }))),
    ),
  )
  const bad = $derived(gear.filter((each) => each.state !== 'well'))
  const racks = $derived(
    data.rooms.flatMap((room) => room.racks.map((rack) => ({ ...rack, room: room.name }))),
  )
  const used = $derived(gear.reduce((sum, each) => sum + each.heightUnits, 0))
  const units = $derived(racks.reduce((sum, rack) => sum + rack.heightUnits, 0))
  const sentence = $derived.by(() => {
    if (data.rooms.length === 0) return 'No room is drawn yet.'
    const said = (['critical', 'warning', 'noData'] as const).flatMap((state) => {
      const names = bad.filter((each) => each.state === state).map((each) => each.name)
      const word = { critical: 'critical', warning: 'in warning', noData: 'without data' }[state]
      return names.length === 0 ? [] : [`${listNames(names)} ${names.length === 1 ? 'is' : 'are'} ${word}`]
    })
    return `${said.length === 0 ? 'Everything in the racks is well' : said.join('; ')}. ${used} of ${units} units are used.`
  })
  const WORDS = { critical: 'critical', warning: 'warning', noData: 'no data', well: 'well' } as const
</script>

<svelte:head><title>Rooms · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>

<div class="grid grid-cols-[minmax(0,1fr)_340px] items-start gap-4">
  <div class="grid gap-3.5">
    {#each data.rooms as room (room.id)}
      <section class="sheet" aria-label={room.name}>
        <h2 class="sheet-title">
          {room.name} <span>{room.racks.length} rack{room.racks.length === 1 ? '' : 's'}, front view</span>
        </h2>
        <div class="flex flex-wrap gap-6">
          {#each room.racks as rack (rack.id)}
            <Rack {rack} unitHeight={15} width={440} isNamed />
          {:else}
            <p class="sub">No rack stands here yet.</p>
          {/each}
        </div>
      </section>
    {:else}
      <section class="sheet">
        <p class="sub">Make a room and a rack, then put gear into its units.</p>
      </section>
    {/each}
  </div>
  <div class="grid gap-3.5">
    <section class="sheet" aria-labelledby="stands">
      <h2 class="sheet-title" id="stands">What stands here</h2>
      <ul>
        {#each gear as each (each.id)}
          <li class="border-rule-2 border-t py-1.5" data-row>
            <a
              href="/gear/{each.id}"
              class="grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-1 hover:underline"
            >
              <Glyph state={each.state} />
              <span
                ><b class="font-[640]">{each.name}</b>
                <span class="place">{each.rack} · U{String(each.unit).padStart(2, '0')}</span></span
              >
              <span class="sub">{WORDS[each.state]}</span>
            </a>
          </li>
        {:else}
          <li class="sub">Nothing is placed yet.</li>
        {/each}
      </ul>
    </section>
    {#if data.mayBuild}
      <section class="sheet" aria-labelledby="build">
        <h2 class="sheet-title" id="build">Change the rooms</h2>
        {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
        {#if racks.length > 0 && data.unplaced.length + data.placed.length > 0}
          <form method="POST" action="?/place" use:enhance class="grid grid-cols-2 gap-2">
            <label class="col-span-2 grid gap-0.5">
              Put
              <select class="field" name="gearId">
                {#each data.unplaced as each (each.id)}<option value={each.id}
                    >{each.name}, {GEAR_KINDS[each.kind].label}, not placed</option
                  >{/each}
                {#each data.placed as each (each.id)}<option value={each.id}>{each.name}, move it</option
                  >{/each}
              </select>
            </label>
            <label class="col-span-2 grid gap-0.5">
              into rack
              <select class="field" name="rackId">
                {#each racks as rack (rack.id)}<option value={rack.id}>{rack.room}, {rack.name}</option
                  >{/each}
              </select>
            </label>
            <label class="grid gap-0.5"
              >lowest unit <input class="field" name="unit" inputmode="numeric" required /></label
            >
            <label class="grid gap-0.5"
              >height, U <input
                class="field"
                name="heightUnits"
                inputmode="numeric"
                value="2"
                required
              /></label
            >
            <button class="btn justify-self-start">Place</button>
          </form>
        {/if}
        <form method="POST" action="?/addRoom" use:enhance class="mt-3 flex items-end gap-2">
          <label class="grid grow gap-0.5"
            >New room <input class="field" name="name" required maxlength="64" /></label
          >
          <button class="btn">Add room</button>
        </form>
        {#if data.rooms.length > 0}
          <form method="POST" action="?/addRack" use:enhance class="mt-3 grid grid-cols-2 gap-2">
            <label class="grid gap-0.5"
              >New rack <input class="field" name="name" required maxlength="64" /></label
            >
            <label class="grid gap-0.5"
              >height, U <input
                class="field"
                name="heightUnits"
                inputmode="numeric"
                value="42"
                required
              /></label
            >
            <label class="col-span-2 grid gap-0.5">
              in room
              <select class="field" name="roomId">
                {#each data.rooms as room (room.id)}<option value={room.id}>{room.name}</option>{/each}
              </select>
            </label>
            <button class="btn justify-self-start">Add rack</button>
          </form>
        {/if}
      </section>
    {/if}
  </div>
</div>
