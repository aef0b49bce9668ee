<script lang="ts">
  import type { MeasureKey } from '#core/catalogue'
  import type { PartView, ReadingView } from '#core/gear'

  let { parts, own }: { parts: readonly PartView[]; own: readonly ReadingView[] } = $props()

  const reading = (measure: MeasureKey): ReadingView | undefined =>
    own.find((each) => each.measure === measure)
  const text = (measure: MeasureKey): string => reading(measure)?.text ?? '–'
  const stateOf = (measure: MeasureKey): string => reading(measure)?.state ?? 'well'
  const part = (kind: string): PartView | undefined => parts.find((each) => each.kind === kind)
  const isOnBattery = $derived(text('ups.output.source') === 'battery')
</script>

<!-- From the mains through the UPS to its load; the way the power takes now is drawn full. -->
<svg viewBox="0 0 660 112" class="block w-full max-w-165" role="group" aria-label="The way of the power">
  <path d="M150 36H255" class={isOnBattery ? 'off' : 'on'} />
  <path d="M330 78V60" class={isOnBattery ? 'on' : 'off'} />
  <path d="M405 36H510" class="on" />
  <g>
    <rect x="10" y="12" width="140" height="46" class="box {isOnBattery ? 'critical' : 'well'}" />
    <text x="80" y="32" class="label">Mains</text>
    <text x="80" y="48" class="value">{part('input')?.text ?? '–'}</text>
  </g>
  <g>
    <rect x="255" y="12" width="150" height="46" class="box {stateOf('ups.output.source')}" />
    <text x="330" y="32" class="label">on {text('ups.output.source')}</text>
    <text x="330" y="48" class="value">load {text('ups.output.load')}</text>
  </g>
  <g>
    <rect x="205" y="72" width="250" height="36" class="box {stateOf('ups.battery.minutes_left')}" />
    <text x="330" y="88" class="label" data-testid="minutes-left"
      >{text('ups.battery.minutes_left')} left</text
    >
    <text x="330" y="102" class="value"
      >charge {text('hw.battery.charge')}, battery {text('ups.battery.status')}</text
    >
  </g>
  <g>
    <rect x="510" y="12" width="140" height="46" class="box well" />
    <text x="580" y="32" class="label">Load</text>
    <text x="580" y="48" class="value">{part('output')?.text ?? '–'}</text>
  </g>
</svg>

<style>
  .box {
    fill: var(--unit);
    stroke: var(--unit-edge);
  }
  .box.critical {
    fill: var(--crit-soft);
    stroke: var(--crit);
    stroke-width: 2;
  }
  .box.warning {
    fill: var(--warn-soft);
    stroke: var(--warn);
    stroke-width: 2;
  }
  .box.noData {
    fill: var(--blind-soft);
    stroke: var(--blind);
    stroke-dasharray: 3 2;
  }
  .on {
    stroke: var(--ink);
    stroke-width: 2;
    fill: none;
  }
  .off {
    stroke: var(--rule);
    stroke-width: 1.4;
    stroke-dasharray: 4 3;
    fill: none;
  }
  text {
    text-anchor: middle;
  }
  .label {
    font-size: 12px;
    font-weight: 640;
    fill: var(--ink);
  }
  .value {
    font-size: 11px;
    fill: var(--ink-2);
  }
</style>
