<script lang="ts">
  import { type PartView, STATE_WORDS } from '#core/gear'

  let { parts, pick }: { parts: readonly PartView[]; pick: (part: PartView) => void } = $props()

  const of = (kind: string): readonly PartView[] => parts.filter((part) => part.kind === kind)
  const WIDTH = 660
  const RIGHT = 92
  const BESIDE = ['drive', 'fan', 'supply', 'memory', 'processor', 'port', 'filesystem']
  /** A cooling unit or a meter has no bays: there what it measures stands in their place. */
  const drives = $derived(of('drive'))
  const isServer = $derived(drives.length > 0 || of('processor').length > 0)
  const others = $derived(parts.filter((part) => !BESIDE.includes(part.kind)).slice(0, 8))
  const top = $derived(isServer ? drives : others)
  const left = $derived(isServer ? WIDTH - RIGHT - 24 : WIDTH - 16)
  const bottom = $derived([...of('fan'), ...of('supply')])
  const memory = $derived(of('memory'))
  const badMemory = $derived(memory.filter((part) => part.state !== 'well'))
  const bays = $derived(isServer ? Math.max(drives.length, 8) : top.length)
  const right = $derived([
    ...of('processor').map((part) => ({ part, name: part.name, text: part.text, state: part.state })),
    ...(memory.length === 0
      ? []
      : [
          {
            part: badMemory[0] ?? memory[0]!,
            name: badMemory[0]?.name ?? `${memory.length} dimm`,
            text: badMemory[0]?.text ?? (memory.every((each) => each.state === 'well') ? 'well' : ''),
            state: badMemory[0]?.state ?? 'well',
          },
        ]),
  ])
  const cell = (count: number): number => left / Math.max(count, 1)
  /** More drives than fit beside each other with their words stand in rows. */
  const MOST_IN_ROW = 12
  const ROW_HEIGHT = 52
  const inRow = $derived(Math.min(bays, MOST_IN_ROW))
  const lower = $derived((Math.ceil(bays / MOST_IN_ROW) - 1) * ROW_HEIGHT)
  const across = (index: number): number => 10 + (index % MOST_IN_ROW) * cell(inRow)
  const down = (index: number): number => 9 + Math.floor(index / MOST_IN_ROW) * ROW_HEIGHT
</script>

{#snippet box(x: number, y: number, w: number, h: number, part: PartView, name: string, text: string)}
  <g
    role="button"
    tabindex="0"
    aria-label="{name}: {text}, {STATE_WORDS[part.state]}"
    onclick={() => pick(part)}
    onkeydown={(event) => event.key === 'Enter' && pick(part)}
    data-testid="part"
    data-state={part.state}
  >
    <title>{name}: {text}</title>
    <rect {x} {y} width={w} height={h} rx="1" class="part {part.state}" />
    <text x={x + w / 2} y={y + h / 2 - 1} text-anchor="middle" class="label">{name}</text>
    <text x={x + w / 2} y={y + h / 2 + 11} text-anchor="middle" class="value">{text}</text>
  </g>
{/snippet}

<svg
  viewBox="0 0 {WIDTH} {112 + lower}"
  class="block w-full max-w-165"
  role="group"
  aria-label="Front, drawn from its parts"
>
  <rect x="0.7" y="0.7" width={WIDTH - 1.4} height={110.6 + lower} class="case" />
  {#each top as drive, index (drive.id)}
    {@render box(across(index), down(index), cell(inRow) - 4, 48, drive, drive.name, drive.text)}
  {/each}
  {#each Array.from({ length: Math.max(0, bays - top.length) }, (_, index) => top.length + index) as bay (bay)}
    <rect x={across(bay)} y={down(bay)} width={cell(inRow) - 4} height="48" rx="1" class="empty" />
  {/each}
  {#each bottom as part, index (part.id)}
    {@render box(
      10 + index * cell(bottom.length),
      66 + lower,
      cell(bottom.length) - 4,
      36,
      part,
      part.name.toLowerCase(),
      part.text,
    )}
  {/each}
  {#each right as { part, name, text, state }, index (name)}
    {@render box(WIDTH - RIGHT - 8, 9 + index * 32, RIGHT, 29, { ...part, state }, name, text)}
  {/each}
</svg>

<style>
  .case {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.4;
  }
  .part {
    fill: var(--unit);
    stroke: var(--unit-edge);
  }
  .part.critical {
    fill: var(--crit-soft);
    stroke: var(--crit);
    stroke-width: 2;
  }
  .part.warning {
    fill: var(--warn-soft);
    stroke: var(--warn);
    stroke-width: 2;
  }
  .part.noData {
    fill: var(--blind-soft);
    stroke: var(--blind);
    stroke-width: 1.6;
    stroke-dasharray: 3 2;
  }
  .empty {
    fill: none;
    stroke: var(--rule);
  }
  .label {
    font-size: 10px;
    font-weight: 620;
    fill: var(--ink);
  }
  .value {
    font-size: 9.5px;
    fill: var(--ink-2);
  }
  g {
    cursor: pointer;
  }
  g:hover .part,
  g:focus-visible .part {
    stroke: var(--accent);
    stroke-width: 2;
  }
</style>
