<script lang="ts">
  import FileInput from '../ui/FileInput.svelte'
  import Form from '../ui/Form.svelte'
  import Link from '../ui/Link.svelte'
  import Panel from '../ui/Panel.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
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
  <Input {label} class="w-44" name="name" required maxlength="64" defaultValue={room.name} />
  <Input
    label="Building, if another"
    class="w-44"
    name="building"
    maxlength="64"
    defaultValue={room.building}
  />
  {#each [['Wide, m', 'widthMm', room.wide], ['Deep, m', 'depthMm', room.deep]] as [side, name, value] (name)}
    <Input label={side} class="w-20" {name} inputmode="decimal" required defaultValue={value} />
  {/each}
{/snippet}

<Panel title="Rooms and racks" id="build">
  {#if message !== null}<p class="text-crit mb-2" role="alert">{message}</p>{/if}
  {#if done !== null}<p class="mb-2" role="status">{done}</p>{/if}
  <div class="grid gap-3">
    {#if room !== null}
      {#key room.id}
        <Form
          action="?/changeRoom"
          submit={() =>
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
          <Button>Save</Button>
        </Form>
        <Form action="?/addRack" class="flex flex-wrap items-end gap-2">
          <input type="hidden" name="roomId" value={room.id} />
          <Input label={`New rack in ${room.name}`} class="w-44" name="name" required maxlength="64" />
          <Input
            label="Height (U)"
            class="w-20"
            name="heightUnits"
            inputmode="numeric"
            defaultValue="42"
            required
          />
          <Button>Add rack</Button>
        </Form>
        {#if empty.length > 0}
          <Form action="?/removeRack" class="flex flex-wrap items-end gap-2">
            <Select
              label="A rack that is empty"
              class="w-44"
              name="id"
              options={empty.map((rack) => ({ value: rack.id, label: rack.name }))}
            />
            <Button>Remove</Button>
          </Form>
        {/if}
      {/key}
    {/if}
    <Form
      action="?/addRoom"
      submit={() =>
        async ({ result, update }) => {
          await update()
          if (result.type === 'success' && rooms.length === 0) gone()
        }}
      class="flex flex-wrap items-end gap-2"
    >
      {@render fields('New room', { name: '', building: '', wide: '6', deep: '4.8' })}
      <Button>Add room</Button>
    </Form>
    <Form
      action="?/importPlan"
      enctype="multipart/form-data"
      class="border-rule-2 flex flex-wrap items-end gap-2 border-t pt-3"
    >
      <FileInput label="Plan (JSON)" class="w-72" name="plan" accept=".json,application/json" required />
      <Button>Read it</Button>
      <Link class="text-ink-2 ml-2 text-xs" href="/rooms/plan.json" download>All rooms as a file</Link>
      <Link class="text-ink-2 text-xs" href="/rooms/plan.schema.json">its schema</Link>
    </Form>
  </div>
</Panel>
