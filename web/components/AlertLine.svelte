<script lang="ts">
  import { formatElapsed, formatMoment } from '#core/units'
  import type { AlertRow } from '$lib/server/alertRows'
  import Glyph from './Glyph.svelte'
  import TinyCurve from './TinyCurve.svelte'

  let {
    row,
    nowMs,
    timeZone,
    window,
    take = null,
  }: {
    row: AlertRow
    nowMs: number
    timeZone: string
    window: { readonly fromMs: number; readonly toMs: number }
    /** Takes the alert; `null` when this account may not. */
    take?: ((id: number) => void) | null
  } = $props()
</script>

<li
  class="border-rule-2 grid grid-cols-[22px_minmax(0,1fr)_158px_92px] items-center gap-2.5 border-t py-2.5"
  data-row
  data-testid="alert-row"
>
  <Glyph state={row.state} />
  <div>
    <p>
      <a href={row.href} class="font-[640] hover:underline">{row.title}</a>
      {#if row.place !== null}<span class="place ml-1">{row.place}</span>{/if}
    </p>
    <p class="sub">
      {row.reason}
      <span class="text-ink-3">Told: {row.told}.</span>
      {#if row.folded.length > 0}
        <span class="text-ink-3" title={row.folded.map((each) => each.title).join('; ')}>
          Also: {row.folded.map((each) => each.reason.replace(/\.$/, '').toLowerCase()).join('; ')}.
        </span>
      {/if}
    </p>
  </div>
  <div>
    {#if row.curve !== null}
      <TinyCurve curve={row.curve} fromMs={window.fromMs} toMs={window.toMs} label="How it came to this" />
    {/if}
  </div>
  <div class="text-right">
    <p class="font-mono text-[11px]">{formatMoment(row.sinceMs, nowMs, timeZone)}</p>
    <p class="sub">{formatElapsed(nowMs - row.sinceMs)}</p>
    {#if row.takenBy !== null}
      <p class="sub" data-testid="taken-by">{row.takenBy} has it</p>
    {:else if take !== null}
      <button class="btn mt-0.5" data-take onclick={() => take(row.id)}>Take</button>
    {/if}
  </div>
</li>
