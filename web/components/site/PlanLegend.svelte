<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import type { PlanSubject } from '#core/site'
  import type { RoomView } from '#core/site'

  /** What the tints of a plan mean, in words, with how many racks each has; and what the signs are. */
  let { room, subject }: { room: RoomView; subject: PlanSubject } = $props()

  const STATES = {
    critical: ['critical', 'something in it is critical'],
    warning: ['warning', 'something in it is in warning'],
    noData: ['noData', 'of something in it nothing is heard'],
    quiet: ['plain', 'all is well, but for what is quieted'],
    well: ['plain', 'all is well'],
  } as const
  const TITLES = {
    state: 'State of what is in each rack',
    inlet: 'Air before each rack',
    power: 'What each rack draws',
    free: 'Units free in each rack',
  } as const

  const rank = ['critical', 'warning', 'noData', 'plain']
  const each = $derived(
    room.racks.map((rack) => {
      const [tint, words] =
        subject === 'state'
          ? STATES[rack.state]
          : ([rack.said[subject].band.tint, rack.said[subject].band.words] as const)
      const order = {
        state: rank.indexOf(tint),
        inlet: -(rack.inletCelsius ?? -99),
        power: -(rack.watts ?? -1),
        free: rack.freeUnits / rack.heightUnits,
      }[subject]
      return { tint, words, order }
    }),
  )
  const lines = $derived(
    [...new Set(each.toSorted((a, b) => a.order - b.order).map(({ words }) => words))].map((words) => ({
      words,
      tint: each.find((one) => one.words === words)!.tint,
      count: each.filter((one) => one.words === words).length,
    })),
  )
  const SIGNS = {
    cooling: 'cooling unit, its fans at the thick edge',
    generator: 'generator',
    probe: 'probe; dashed when it is silent',
    door: 'door; open with its arc',
    rope: 'leak rope; thick and red when wet',
    camera: 'camera, with where it looks',
  } as const
  const signs = $derived(
    Object.entries(SIGNS).filter(([kind]) => room.floor.some((each) => each.kind === kind)),
  )
</script>

<Panel title={TITLES[subject]} id="legend">
  <ul class="grid gap-1">
    {#each lines as { tint, words, count } (words)}
      <li class="grid grid-cols-[26px_minmax(0,1fr)_auto] items-center gap-2">
        <span class="swatch {tint}"></span>
        <span>{words}</span>
        <span class="text-ink-2 text-xs">{count} rack{count === 1 ? '' : 's'}</span>
      </li>
    {/each}
  </ul>
  {#if signs.length > 0}
    <ul class="border-rule-2 mt-2 grid gap-0.5 border-t pt-2">
      {#each signs as [kind, words] (kind)}
        <li class="text-ink-2 grid grid-cols-[26px_minmax(0,1fr)] items-center gap-2 text-xs">
          <svg width="26" height="14" aria-hidden="true">
            {#if kind === 'cooling'}<path d="M3 7q3 -6 6 0t6 0t6 0" class="line" />
            {:else if kind === 'generator'}<circle cx="12" cy="7" r="6" class="line" />
            {:else if kind === 'probe'}<circle cx="12" cy="7" r="4" class="line" />
            {:else if kind === 'door'}<path d="M5 13V2A11 11 0 0 1 16 13Z" class="line" />
            {:else if kind === 'rope'}<path d="M2 7h22" class="rope" />
            {:else}<path d="M8 4h7v7H8zM15 6l4 -2v7l-4 -2z" class="solid" />{/if}
          </svg>
          {words}
        </li>
      {/each}
    </ul>
  {/if}
</Panel>

<style>
  .swatch {
    height: 15px;
    border: 1.1px solid var(--ink-2);
    background: var(--sheet);
  }
  .swatch.step1 {
    background: color-mix(in srgb, var(--ink) 5%, var(--sheet));
  }
  .swatch.step2 {
    background: color-mix(in srgb, var(--ink) 13%, var(--sheet));
  }
  .swatch.step3 {
    background: color-mix(in srgb, var(--ink) 24%, var(--sheet));
  }
  .swatch.step4 {
    background: color-mix(in srgb, var(--ink) 38%, var(--sheet));
  }
  .swatch.cold {
    background: var(--accent-soft);
  }
  .swatch.warning {
    background: var(--warn-soft);
    border: 2px solid var(--warn);
  }
  .swatch.critical {
    background: var(--crit-soft);
    border: 2px solid var(--crit);
  }
  .swatch.noData {
    background: var(--blind-soft);
    border: 1.6px dashed var(--blind);
  }
  .line {
    fill: none;
    stroke: var(--ink-2);
    stroke-width: 1.4;
  }
  .rope {
    stroke: var(--accent);
    stroke-width: 2;
    stroke-dasharray: 1 5;
    stroke-linecap: round;
  }
  .solid {
    fill: var(--ink-2);
  }
</style>
