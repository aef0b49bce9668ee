<script lang="ts">
  import { STATE_WORDS } from '#core/gear'
  import { GEAR_KINDS, gearKindOf } from '#core/catalogue'
  import { NODE_HEIGHT, NODE_WIDTH, type Path, type PathEdge, type PathNode } from '#core/links'

  /** What hangs on what, from what people ask for at the left to what carries all at the right. What does not carry is broken. */
  let { path, label }: { path: Path; label: string } = $props()

  const RELATION = {
    contains: 'contains',
    hosts: 'hosts',
    'stores-on': 'stores on',
    'fed-by': 'is fed by',
    'cooled-by': 'is cooled by',
    'wired-to': 'is wired to',
    belongs: 'needs',
  } as const
  const KINDS = {
    compute: 'hosts, contains, belongs',
    store: 'stores on',
    wire: 'wired to',
    feed: 'fed by',
    air: 'cooled by',
  } as const
  const LINE = {
    contains: 'compute',
    hosts: 'compute',
    belongs: 'compute',
    'stores-on': 'store',
    'wired-to': 'wire',
    'fed-by': 'feed',
    'cooled-by': 'air',
  } as const
  const nodes = $derived(new Map(path.nodes.map((node) => [node.id, node])))
  const used = $derived(
    Object.entries(KINDS).filter(([key]) => path.edges.some(({ kind }) => LINE[kind] === key)),
  )
  const kindOf = (node: PathNode): string =>
    node.bundle.length > 0
      ? node.kind === 'group'
        ? 'groups'
        : gearKindOf(node.kind).plural
      : node.kind === 'group'
        ? 'group'
        : GEAR_KINDS[node.kind].label
  const title = (node: PathNode): string =>
    node.bundle.length > 0 ? `${node.bundle.length} ${kindOf(node)}` : node.name
  const hrefOf = (node: PathNode): string => {
    if (node.kind === 'group') return `/gear/groups/${-node.id}`
    if (node.bundle.length === 0) return `/gear/${node.id}`
    return `/gear?kind=${node.kind}`
  }
  /** Long names are cut in the middle: what tells them apart stands at both ends. */
  const short = (name: string): string => (name.length > 19 ? `${name.slice(0, 10)}…${name.slice(-8)}` : name)

  function wayOf({ fromId, toId }: PathEdge): string {
    let [a, b] = [nodes.get(fromId)!, nodes.get(toId)!]
    if (a.x > b.x) [a, b] = [b, a]
    const [ay, by] = [a.y + NODE_HEIGHT / 2, b.y + NODE_HEIGHT / 2]
    if (a.x === b.x) {
      // Two in one column: around the right side of both.
      const x = a.x + NODE_WIDTH
      return `M${x} ${ay}C${x + 26} ${ay} ${x + 26} ${by} ${x} ${by}`
    }
    const [ax, bx] = [a.x + NODE_WIDTH, b.x]
    const bend = Math.min(60, (bx - ax) / 2 + 8)
    return `M${ax} ${ay}C${ax + bend} ${ay} ${bx - bend} ${by} ${bx} ${by}`
  }
  function middleOf({ fromId, toId }: PathEdge): { x: number; y: number } {
    const [a, b] = [nodes.get(fromId)!, nodes.get(toId)!]
    const same = a.x === b.x
    const [left, right] = a.x < b.x ? [a, b] : [b, a]
    return {
      x: same ? a.x + NODE_WIDTH + 19 : (left.x + NODE_WIDTH + right.x) / 2,
      y: (a.y + b.y) / 2 + NODE_HEIGHT / 2,
    }
  }
  const told = (edge: PathEdge): string =>
    `${nodes.get(edge.fromId)!.name} ${RELATION[edge.kind]} ${nodes.get(edge.toId)!.name}${edge.count > 1 ? `, ${edge.count} times` : ''}${edge.fault === null ? '' : `: ${edge.fault}`}`
</script>

<svg
  viewBox="0 0 {path.width} {path.height}"
  width={path.width}
  class="block h-auto max-w-full"
  role="group"
  aria-label={label}
  data-testid="path"
>
  {#each path.edges as edge (`${edge.kind} ${edge.fromId} ${edge.toId}`)}
    <g data-testid="path-link" data-fault={edge.fault !== null}>
      <title>{told(edge)}</title>
      <path d={wayOf(edge)} class="edge {LINE[edge.kind]}" class:broken={edge.fault !== null} />
      {#if edge.fault !== null}
        {@const { x, y } = middleOf(edge)}
        <path d="M{x - 5} {y - 5}l10 10m0 -10l-10 10" class="cross" />
      {/if}
    </g>
  {/each}
  {#each path.nodes as node (node.id)}
    <a
      href={hrefOf(node)}
      aria-label="{title(node)}, {kindOf(node)}, {STATE_WORDS[node.state]}"
      aria-current={node.isStart ? 'true' : undefined}
      data-testid="path-node"
      data-state={node.state}
    >
      <title>{node.bundle.length > 0 ? node.bundle.map(({ name }) => name).join(', ') : node.name}</title>
      {#if node.bundle.length > 0}
        <rect x={node.x + 3} y={node.y + 3} width={NODE_WIDTH} height={NODE_HEIGHT} class="node stack" />
      {/if}
      <rect
        x={node.x}
        y={node.y}
        width={NODE_WIDTH}
        height={NODE_HEIGHT}
        class="node {node.state}"
        class:start={node.isStart}
      />
      <text x={node.x + 8} y={node.y + 15} class="name">{short(title(node))}</text>
      <text x={node.x + 8} y={node.y + 29} class="kind {node.state}"
        >{node.bundle.length > 0 ? short(`${node.bundle[0]!.name} …`) : kindOf(node)}{node.state === 'well'
          ? ''
          : `, ${STATE_WORDS[node.state]}`}</text
      >
    </a>
  {/each}
</svg>
<p class="text-ink-2 mt-1.5 flex flex-wrap gap-4 text-xs">
  {#each used as [key, words] (key)}
    <span class="inline-flex items-center gap-1.5"
      ><svg width="26" height="8" aria-hidden="true"><path d="M1 4h24" class="edge {key}" /></svg
      >{words}</span
    >
  {/each}
  <span>needed things stand to the right; a crossed link does not carry</span>
</p>

<style>
  .edge {
    fill: none;
    stroke: var(--ink-3);
    stroke-width: 1.4;
  }
  .edge.store {
    stroke-width: 2.4;
  }
  .edge.wire {
    stroke-dasharray: 6 3;
  }
  .edge.feed {
    stroke: var(--ink);
    stroke-width: 1.4;
    stroke-dasharray: 1.5 3.5;
    stroke-linecap: round;
  }
  .edge.air {
    stroke: var(--rule);
    stroke-width: 2;
  }
  .edge.broken {
    stroke: var(--crit);
    stroke-width: 2.2;
  }
  .cross {
    stroke: var(--crit);
    stroke-width: 2.6;
    fill: none;
  }
  .node {
    fill: var(--sheet);
    stroke: var(--unit-edge);
    stroke-width: 1.2;
  }
  .node.stack {
    fill: var(--unit);
  }
  .node.critical {
    fill: var(--crit-soft);
    stroke: var(--crit);
    stroke-width: 2.2;
  }
  .node.warning {
    fill: var(--warn-soft);
    stroke: var(--warn);
    stroke-width: 1.8;
  }
  .node.quiet {
    stroke: var(--quiet);
    stroke-width: 1.6;
  }
  .node.noData {
    fill: var(--blind-soft);
    stroke: var(--blind);
    stroke-width: 1.6;
    stroke-dasharray: 4 3;
  }
  .node.start {
    stroke: var(--ink);
    stroke-width: 3;
  }
  a:focus-visible {
    outline: none;
  }
  a:hover .node:not(.stack),
  a:focus-visible .node:not(.stack) {
    stroke: var(--accent);
    stroke-width: 3;
  }
  .name {
    font-size: 12px;
    font-weight: 640;
    fill: var(--ink);
  }
  .kind {
    font-size: 10.5px;
    fill: var(--ink-2);
  }
  .kind.critical {
    fill: var(--crit);
  }
  .kind.warning {
    fill: var(--warn);
  }
  .kind.noData {
    fill: var(--blind);
  }
</style>
