<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import type { RoomView } from '#core/site'

  /** Makes and changes rooms and racks; reads and writes plans. */
  let {
    rooms,
    room,
    message,
    done,
    gone,
  }: {
    rooms: readonly { readonly id: number; readonly name: string }[]
    room: RoomView | null
    message: string | null
    done: string | null
    gone: () => void
  } = $props()
  const empty = $derived(room?.racks.filter((rack) => rack.gear.length === 0) ?? [])
  const metres = (mm: number): string => String(mm / 1000)
</script>

{#snippet fields(
  label: string,
  room: { readonly name: string; readonly building: string; readonly wide: string; readonly deep: string },
)}
  <label class="grid gap-0.5"
    >{label} <input class="field w-44" name="name" required maxlength="64" defaultValue={room.name} /></label
  >
  <label class="grid gap-0.5"
    >Building, if another <input
      class="field w-44"
      name="building"
      maxlength="64"
      defaultValue={room.building}
    /></label
  >
  {#each [['Wide, m', 'widthMm', room.wide], ['Deep, m', 'depthMm', room.deep]] as [side, name, value] (name)}
    <label class="grid gap-0.5"
      >{side} <input class="field w-20" {name} inputmode="decimal" required defaultValue={value} /></label
    >
  {/each}
{/snippet}

<section class="panel" aria-labelledby="build">
  <h2 class="panel-title" id="build">Rooms and racks</h2>
  {#if message !== null}<p class="text-crit mb-2" role="alert">{message}</p>{/if}
  {#if done !== null}<p class="mb-2" role="status">{done}</p>{/if}
  <div class="grid gap-3">
    {#if room !== null}
      {#key room.id}
        <form
          method="POST"
          action="?/changeRoom"
          use:enhance={() =>
            ({ update }) =>
              update({ reset: false })}
          class="flex flex-wrap items-end gap-2"
        >
          <input type="hidden" name="id" value={room.id} />
          {@render fields('Room', {
            name: room.name,
            building: room.building ?? '',
            wide: metres(room.widthMm),
            deep: metres(room.depthMm),
          })}
          <button class="btn">Keep</button>
        </form>
        <form method="POST" action="?/addRack" use:enhance class="flex flex-wrap items-end gap-2">
          <input type="hidden" name="roomId" value={room.id} />
          <label class="grid gap-0.5"
            >New rack in {room.name} <input class="field w-44" name="name" required maxlength="64" /></label
          >
          <label class="grid gap-0.5"
            >height, U <input
              class="field w-20"
              name="heightUnits"
              inputmode="numeric"
              defaultValue="42"
              required
            /></label
          >
          <button class="btn">Add rack</button>
        </form>
        {#if empty.length > 0}
          <form method="POST" action="?/removeRack" use:enhance class="flex flex-wrap items-end gap-2">
            <label class="grid gap-0.5">
              A rack that is empty
              <select class="field w-44" name="id">
                {#each empty as rack (rack.id)}<option value={rack.id}>{rack.name}</option>{/each}
              </select>
            </label>
            <button class="btn">Take it away</button>
          </form>
        {/if}
      {/key}
    {/if}
    <form
      method="POST"
      action="?/addRoom"
      use:enhance={() =>
        async ({ result, update }) => {
          await update()
          if (result.type === 'success' && rooms.length === 0) gone()
        }}
      class="flex flex-wrap items-end gap-2"
    >
      {@render fields('New room', { name: '', building: '', wide: '6', deep: '4.8' })}
      <button class="btn">Add room</button>
    </form>
    <form
      method="POST"
      action="?/importPlan"
      enctype="multipart/form-data"
      use:enhance
      class="border-rule-2 flex flex-wrap items-end gap-2 border-t pt-3"
    >
      <label class="grid gap-0.5"
        >A plan from a file <input
          class="field w-72"
          type="file"
          name="plan"
          accept=".json,application/json"
          required
        /></label
      >
      <button class="btn">Read it</button>
      <a class="link muted ml-2" href="/rooms/plan.json" download>All rooms as a file</a>
      <a class="link muted" href="/rooms/plan.schema.json">its schema</a>
    </form>
  </div>
</section>
