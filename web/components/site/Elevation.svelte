<script lang="ts">
  import './elevation.css'
  import { STATE_WORDS } from '#core/gear'
  import type { Carried } from './carrying.svelte'
  import { type Face, facesMeet, placingProblem, type RackPosition, tryPlace, unitLabel } from '#core/site'
  import type { MountedView, RackView } from '#core/site'

  /** Racks seen from the front or the rear. With `carried`, a gear is on its way to a place: by the pointer or by keys. */
  let {
    racks,
    side,
    rackWidth,
    unitHeight,
    carried = null,
    lift = null,
    hover = () => undefined,
    drop = () => undefined,
  }: {
    racks: readonly RackView[]
    side: 'front' | 'rear'
    rackWidth: number
    unitHeight: number
    carried?: Carried | null
    lift?: ((gear: MountedView, rack: RackView) => void) | null
    hover?: (rackId: number, unit: number) => void
    drop?: () => void
  } = $props()

  /** So many racks are drawn at once; those further down when they come near. */
  const AT_ONCE = 12
  let near = $state.raw<ReadonlySet<number>>(new Set())
  const isDrawn = (rack: RackView, index: number): boolean => index < AT_ONCE || near.has(rack.id)
  /** One observer for all racks: what comes near together is drawn together. */
  let observer: IntersectionObserver | null = null
  function watch(node: SVGSVGElement): () => void {
    observer ??= new IntersectionObserver(
      (seen) => {
        const come = seen.filter(({ isIntersecting }) => isIntersecting).map(({ target }) => target)
        if (come.length === 0) return
        come.forEach((target) => observer?.unobserve(target))
        near = new Set([...near, ...come.map(({ id }) => Number(id.replace('rack-', '')))])
      },
      { rootMargin: '500px 0px' },
    )
    observer.observe(node)
    return () => observer?.unobserve(node)
  }

  /** A gear under the pressed pointer, until it is either let go or dragged. */
  let pressed: { gear: MountedView; rack: RackView; x: number; y: number } | null = null
  let wasDragged = false
  const DRAG_PX = 5
  function pull(event: PointerEvent): void {
    if (pressed === null || Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < DRAG_PX) return
    wasDragged = true
    lift?.(pressed.gear, pressed.rack)
    pressed = null
  }

  const TOP = 20
  const LEFT = 20
  const inner = $derived(rackWidth - LEFT - 6)
  const tallest = $derived(Math.max(1, ...racks.map((rack) => rack.heightUnits)))
  const yOf = (rack: RackView, { unit, heightUnits }: RackPosition): number =>
    TOP + (tallest - (unit - 1 + heightUnits)) * unitHeight
  const isSeen = (face: Face): boolean => face === 'both' || face === side
  const isStrip = (face: Face): boolean => face === 'left' || face === 'right'
  /** From behind, left and right change places. */
  const stripX = (face: Face): number =>
    (face === 'left') === (side === 'rear') ? LEFT + 1 : LEFT + inner - 6
  /** The lines between the units, as one. */
  const slots = (rack: RackView): string =>
    Array.from(
      { length: rack.heightUnits },
      (_, at) => `M${LEFT + 1} ${yOf(rack, { unit: at + 1, heightUnits: 1 })}h${inner - 2}`,
    ).join('')
  /** Units that have their number beside them. */
  const marks = (rack: RackView): number[] => [
    1,
    ...Array.from({ length: Math.floor(rack.heightUnits / 5) }, (_, at) => (at + 1) * 5),
  ]
  const short = (detail: string): string => detail.split(', ')[0] ?? ''

  function unitAt(event: PointerEvent | DragEvent | MouseEvent, rack: RackView): number {
    const svg = (event.currentTarget as SVGElement).ownerSVGElement ?? (event.currentTarget as SVGSVGElement)
    const y = event.clientY - svg.getBoundingClientRect().top - TOP
    const fromTop = Math.floor(y / unitHeight) - (tallest - rack.heightUnits)
    // The pointer holds a gear by its top.
    return Math.max(1, rack.heightUnits - fromTop - (carried?.heightUnits ?? 1) + 1)
  }
  const problem = (rack: RackView): string | null =>
    carried === null || carried.rackId !== rack.id
      ? null
      : placingProblem(
          tryPlace({ ...carried }, rack),
          { unit: carried.unit, heightUnits: carried.heightUnits },
          rack.name,
        )
  const isFree = (rack: RackView, gear: MountedView): boolean =>
    carried !== null &&
    carried.rackId === rack.id &&
    carried.id !== gear.id &&
    facesMeet(carried.face, gear.face)
</script>

<div class="elevation flex flex-wrap gap-x-1 gap-y-1.5">
  {#each racks as rack, index (rack.id)}
    <svg
      {@attach index < AT_ONCE ? null : watch}
      id="rack-{rack.id}"
      width={rackWidth}
      height={TOP + tallest * unitHeight + 8}
      role="group"
      aria-label="Rack {rack.name}, {rack.heightUnits} units, {rack.freeUnits} free"
      data-testid="elevation"
      ondragover={(event) => {
        event.preventDefault()
        hover(rack.id, unitAt(event, rack))
      }}
      ondrop={(event) => {
        event.preventDefault()
        hover(rack.id, unitAt(event, rack))
        drop()
      }}
      onpointermove={(event) => {
        pull(event)
        if (carried !== null) hover(rack.id, unitAt(event, rack))
      }}
      onpointerup={() => {
        pressed = null
        if (carried !== null) drop()
      }}
    >
      <text x={LEFT + inner / 2} y={TOP - 8 + (tallest - rack.heightUnits) * unitHeight} class="name"
        >{rack.name}</text
      >
      {#if isDrawn(rack, index)}
        {#each marks(rack) as unit (unit)}
          <text x={LEFT - 5} y={yOf(rack, { unit, heightUnits: 1 }) + unitHeight / 2 + 3} class="unit"
            >{unit}</text
          >
        {/each}
        <path d={slots(rack)} class="rack-slot" />
      {/if}
      <path
        d="M{LEFT - 2} {TOP - 3 + (tallest - rack.heightUnits) * unitHeight}V{TOP +
          tallest * unitHeight +
          4}M{LEFT + inner + 2} {TOP - 3 + (tallest - rack.heightUnits) * unitHeight}V{TOP +
          tallest * unitHeight +
          4}M{LEFT - 3} {TOP + tallest * unitHeight + 4}h{inner + 6}"
        class="rack-frame"
      />
      {#each isDrawn(rack, index) ? rack.gear : [] as gear (gear.id)}
        {@const top = yOf(rack, gear)}
        {@const tall = gear.heightUnits * unitHeight}
        {#if isStrip(gear.face)}
          {#if side === 'rear'}
            <a href="/gear/{gear.id}" aria-label="{gear.name}, {STATE_WORDS[gear.state]}, {gear.detail}">
              <title>{gear.name}: {gear.detail}</title>
              <rect x={stripX(gear.face)} y={top} width="5" height={tall} class="rack-gear {gear.state}" />
            </a>
          {/if}
        {:else}
          <a
            href="/gear/{gear.id}"
            aria-label="{gear.name}, {unitLabel(gear)}, {STATE_WORDS[gear.state]}{gear.detail === ''
              ? ''
              : `, ${gear.detail}`}"
            data-testid="mounted"
            ondragstart={(event) => event.preventDefault()}
            onpointerdown={(event) => {
              pressed = lift === null ? null : { gear, rack, x: event.clientX, y: event.clientY }
              wasDragged = false
            }}
            onclick={(event) => {
              // What was dragged was not meant to be opened.
              if (wasDragged) event.preventDefault()
              wasDragged = false
            }}
            onkeydown={(event) => {
              if (event.key !== 'm' || lift === null) return
              event.preventDefault()
              event.stopPropagation()
              lift(gear, rack)
            }}
          >
            <title
              >{gear.name}, {unitLabel(gear)}, {STATE_WORDS[gear.state]}{gear.detail === ''
                ? ''
                : `: ${gear.detail}`}</title
            >
            <rect
              x={LEFT + 1 + (side === 'rear' ? 7 : 0)}
              y={top + 0.7}
              width={inner - 2 - (side === 'rear' ? 14 : 0)}
              height={tall - 1.4}
              class="rack-gear {gear.state}"
              class:behind={!isSeen(gear.face)}
              class:moving={carried?.id === gear.id}
              class:taken={isFree(rack, gear)}
            />
            {#if isSeen(gear.face)}
              <text
                x={LEFT + 6 + (side === 'rear' ? 4 : 0)}
                y={top + (tall >= 26 ? tall / 2 - 1 : tall / 2 + 3.6)}
                class="label {gear.state}">{gear.name}</text
              >
              {#if tall >= 26}
                <text
                  x={LEFT + 6 + (side === 'rear' ? 4 : 0)}
                  y={top + tall / 2 + 11}
                  class="word {gear.state}"
                >
                  {gear.state === 'well' ? short(gear.detail) : STATE_WORDS[gear.state]}
                </text>
              {/if}
            {/if}
          </a>
        {/if}
      {/each}
      {#if carried !== null && carried.rackId === rack.id}
        {@const top = yOf(rack, carried)}
        <g class="ghost {problem(rack) === null ? 'fits' : 'blocked'}">
          <rect x={LEFT + 1} y={top} width={inner - 2} height={carried.heightUnits * unitHeight} />
          <text x={LEFT + 6} y={top + 12}>{carried.name}</text>
        </g>
      {/if}
    </svg>
  {/each}
</div>
