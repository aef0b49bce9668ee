<script lang="ts">
  import { STATE_PREDICATES } from '#core/gear'
  import type { Lamp } from '$lib/server/shell/shell'
  import Glyph from '../ui/Glyph.svelte'

  export interface Blade {
    readonly name: string
    readonly href: string
    /** Between groups there is a gap. */
    readonly group: string
    readonly lamp: Lamp | null
  }

  let { blades, path }: { blades: readonly Blade[]; path: string } = $props()

  const isHere = (href: string): boolean => (href === '/' ? path === '/' : path.startsWith(href))
</script>

<nav class="rail" aria-label="Places">
  <a href="/" class="mark">
    <svg width="22" height="22" viewBox="0 0 22 22" class="flex-none" aria-hidden="true">
      <path d="M4 1v20M18 1v20" stroke="#7fd0d6" stroke-width="2" />
      <path d="M4 5h14M4 17h14" stroke="#fff" stroke-width="2" />
      <path d="M4 11l4-2 3 4 3-5 4 3" fill="none" stroke="#ffb648" stroke-width="2" />
    </svg>
    Restless Rack
  </a>
  {#each blades as { name, href, group, lamp }, index (href)}
    <a
      {href}
      class="blade"
      class:apart={index > 0 && blades[index - 1]!.group !== group}
      class:on={isHere(href)}
      aria-current={isHere(href) ? 'page' : undefined}
    >
      <span class="u">{String(index + 1).padStart(2, '0')}</span>
      {name}
      {#if lamp !== null}
        <span class="lamp {lamp.state}">
          {lamp.count}
          <Glyph
            state={lamp.state}
            label="{lamp.count} {STATE_PREDICATES[lamp.state]}"
            onRail={!isHere(href)}
          />
        </span>
      {/if}
    </a>
  {/each}
</nav>

<style>
  .rail {
    background: var(--rail);
    color: var(--rail-ink);
    padding: 14px 10px 10px;
    display: flex;
    flex-direction: column;
    gap: 3px;
    border-right: 6px double #2b3d47;
    position: sticky;
    top: 0;
    height: 100vh;
  }
  /* Enlarged, or on a narrow screen, it lies above the page. */
  @media (width < 64rem) {
    .rail {
      flex-flow: row wrap;
      align-items: center;
      position: static;
      height: auto;
      border-right: none;
    }
  }
  .mark {
    font-weight: 800;
    font-stretch: 104%;
    color: #fff;
    font-size: 15px;
    padding: 0 6px 10px;
    display: flex;
    gap: 8px;
    align-items: center;
    white-space: nowrap;
  }
  .blade {
    display: grid;
    grid-template-columns: 22px 1fr auto;
    column-gap: 4px;
    align-items: center;
    height: 33px;
    background: var(--rail-slot);
    border: 1px solid var(--rail-edge);
    border-radius: 2px;
    padding: 0 8px 0 5px;
  }
  @media (width >= 64rem) {
    .apart {
      margin-top: 9px;
    }
  }
  .blade:hover:not(.on) {
    border-color: var(--rail-dim);
  }
  .u {
    font: 10px var(--font-mono);
    color: var(--rail-dim);
  }
  .on {
    background: #eef3f3;
    color: #14222b;
    border-color: #eef3f3;
    font-weight: 650;
    --color-crit: #b5271d;
    --color-warn: #955a00;
    --color-blind: #6a4ca3;
  }
  .on .u {
    color: #0d6470;
  }
  .lamp {
    font: 600 11px var(--font-mono);
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .blade:not(.on) .critical {
    color: #ff9b8e;
  }
  .blade:not(.on) .warning {
    color: #ffb648;
  }
  .blade:not(.on) .noData {
    color: #bda5ee;
  }
</style>
