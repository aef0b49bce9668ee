<script lang="ts">
  import { GEAR_KINDS, gearKindOf, type GearKind } from '#core/catalogue'
  import Button from '../ui/Button.svelte'
  import Panel from '../ui/Panel.svelte'

  interface InStock {
    readonly id: number
    readonly name: string
    readonly kind: GearKind
  }
  /** What has no place yet. It is taken to a rack, or stood on the floor, by the view that is shown. */
  let {
    stock,
    isPlan,
    lift,
    stand,
    refuse,
  }: {
    stock: readonly InStock[]
    isPlan: boolean
    lift: (gear: InStock) => void
    stand: (gear: InStock) => void
    refuse: (why: string) => void
  } = $props()
  const fitsRack = ({ kind }: InStock): boolean => !isPlan && gearKindOf(kind).isRacked

  function take(gear: InStock): void {
    if (fitsRack(gear)) lift(gear)
    else if (isPlan && gearKindOf(gear.kind).isFloor) stand(gear)
    else if (isPlan) refuse(`${gear.name} goes into a rack: choose “Racks, front” or “rear”.`)
    else refuse(`${gear.name} goes on the floor or a wall: choose “Plan”.`)
  }
</script>

<Panel title="In stock" note={`${stock.length} not placed yet`} id="stock">
  <ul class="flex {isPlan ? 'max-h-64' : 'max-h-16'} flex-wrap gap-1.5 overflow-y-auto">
    {#each stock as each (each.id)}
      <li>
        <Button
          draggable={fitsRack(each)}
          ondragstart={(event) => {
            event.dataTransfer?.setData('text/plain', each.name)
            lift(each)
          }}
          onclick={() => take(each)}
          >{each.name}
          <span class="text-ink-2 text-xs">{GEAR_KINDS[each.kind].label.toLowerCase()}</span></Button
        >
      </li>
    {:else}
      <li class="text-ink-2 text-xs">Everything that stands somewhere has its place.</li>
    {/each}
  </ul>
</Panel>
