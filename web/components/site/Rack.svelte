<script lang="ts">
  import { STATE_WORDS } from '#core/gear'
  import { type RackInSmall, unitLabel } from '#core/site'

  let {
    rack,
    unitHeight,
    width,
    isNamed = false,
    href,
  }: {
    rack: RackInSmall
    unitHeight: number
    width: number
    isNamed?: boolean
    /** Where it can be seen large. */
    href: string
  } = $props()
  // Strips at the sides would hide everything else at this size.
  const standing = $derived(rack.gear.filter(({ face }) => face !== 'left' && face !== 'right'))
  const strips = $derived(
    rack.gear.filter(({ face, state }) => (face === 'left' || face === 'right') && state !== 'well'),
  )

  const TOP = 16
  const LEFT = $derived(isNamed ? 26 : 3)
  const inner = $derived(width - LEFT - (isNamed ? 8 : 3))
  const height = $derived(rack.heightUnits * unitHeight)
  const y = (unit: number, heightUnits: number): number =>
    tenths(TOP + height - (unit - 1 + heightUnits) * unitHeight)
  const tenths = (pixels: number): number => Math.round(pixels * 10) / 10
  /** Pairs of a lowest unit and a height. */
  const taken = $derived(
    Array.from({ length: rack.taken.length / 2 }, (_, index) => rack.taken.slice(2 * index, 2 * index + 2)),
  )
</script>

<svg {width} height={TOP + height + 6} role="group" aria-label="Rack {rack.name}, {rack.heightUnits} units">
  <text x={LEFT + inner / 2} y="10" text-anchor="middle" class="name">{rack.name}</text>
  {#if isNamed}
    {#each Array.from({ length: rack.heightUnits }, (_, index) => index + 1) as unit (unit)}
      {#if unit === 1 || unit % 5 === 0}
        <text x={LEFT - 7} y={y(unit, 1) + unitHeight / 2 + 3} text-anchor="end" class="unit">{unit}</text>
      {/if}
      <path d="M{LEFT + 1} {y(unit, 1)}h{inner - 2}" class="rack-slot" />
    {/each}
  {/if}
  <path
    d="M{LEFT - 2} {TOP - 3}V{TOP + height + 4}M{LEFT + inner + 2} {TOP - 3}V{TOP + height + 4}M{LEFT -
      3} {TOP + height + 4}h{inner + 6}"
    class="rack-frame"
  />
  {#if taken.length > 0}
    <a {href} aria-label="Rack {rack.name}: {taken.length} well">
      <title>{rack.name}: {taken.length} well</title>
      <path
        d={taken
          .map(
            ([unit = 1, units = 1]) =>
              `M${LEFT + 1} ${tenths(y(unit, units) + 0.7)}h${inner - 2}v${tenths(units * unitHeight - 1.4)}h${2 - inner}z`,
          )
          .join('')}
        class="rack-gear well"
      />
    </a>
  {/if}
  {#each standing as gear (gear.id)}
    {@const top = y(gear.unit, gear.heightUnits)}
    {@const tall = gear.heightUnits * unitHeight}
    <a href="/gear/{gear.id}" aria-label="{gear.name}, {unitLabel(gear)}, {STATE_WORDS[gear.state]}">
      <title>{gear.name}, {unitLabel(gear)}, {STATE_WORDS[gear.state]}</title>
      <rect x={LEFT + 1} y={top + 0.7} width={inner - 2} height={tall - 1.4} class="rack-gear {gear.state}" />
      {#if isNamed}
        <text x={LEFT + 12} y={top + tall / 2 + 4} class="label {gear.state}">{gear.name}</text>
        <text x={LEFT + inner - 10} y={top + tall / 2 + 4} text-anchor="end" class="word {gear.state}">
          {gear.state === 'well' ? '' : `${STATE_WORDS[gear.state]} · `}{gear.detail === ''
            ? unitLabel(gear)
            : gear.detail}
        </text>
      {/if}
    </a>
  {/each}
  {#each strips as strip (strip.id)}
    <a href="/gear/{strip.id}" aria-label="{strip.name}, {STATE_WORDS[strip.state]}">
      <title>{strip.name}, {STATE_WORDS[strip.state]}</title>
      <rect
        x={strip.face === 'left' ? LEFT : LEFT + inner - 5}
        y={y(strip.unit, strip.heightUnits)}
        width="5"
        height={strip.heightUnits * unitHeight}
        class="rack-gear {strip.state}"
      />
    </a>
  {/each}
</svg>

<style>
  .name,
  .unit {
    font: 10px var(--font-mono);
    fill: var(--ink-2);
  }
  .unit {
    fill: var(--ink-3);
    font-size: 9px;
  }
  a:hover .rack-gear,
  a:focus-visible .rack-gear {
    stroke: var(--accent);
    stroke-width: 2;
  }
  .label {
    font-size: 12px;
    font-weight: 600;
    fill: var(--ink);
  }
  .word {
    font: 10px var(--font-mono);
    fill: var(--ink-2);
  }
  .label.critical,
  .word.critical {
    fill: var(--sheet);
  }
</style>
