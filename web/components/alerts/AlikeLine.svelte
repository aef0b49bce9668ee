<script lang="ts">
  import Button from '../ui/Button.svelte'
  import { formatElapsed, formatMoment } from '#core/units'
  import type { AlikeRows } from '#core/alerts'
  import Glyph from '../ui/Glyph.svelte'
  import AlertLine from './AlertLine.svelte'

  /** Several alerts that differ in their gear alone, in one row that unfolds. */
  let {
    alike,
    nowMs,
    timeZone,
    window,
    take = null,
  }: {
    alike: AlikeRows
    nowMs: number
    timeZone: string
    window: { readonly fromMs: number; readonly toMs: number }
    /** Takes one alert; `null` when this account may not. */
    take?: ((id: number) => Promise<void>) | null
  } = $props()
  let isUnfolded = $state(false)

  async function takeAll(): Promise<void> {
    for (const { id } of alike.rows) await take?.(id)
  }
</script>

<li class="border-rule-2 border-t py-2.5" data-testid="alike-row">
  <div class="grid grid-cols-[22px_minmax(0,1fr)_96px] items-center gap-2.5" data-row>
    <Glyph state={alike.state} />
    <div class="min-w-0">
      <p class="font-[640]">{alike.title}</p>
      <p class="text-ink-2 truncate text-xs">{alike.rows.map(({ title }) => title).join('; ')}</p>
      <Button
        look="link"
        class="text-ink-2 mt-0.5 text-xs"
        data-fold
        aria-expanded={isUnfolded}
        onclick={() => (isUnfolded = !isUnfolded)}
        >{isUnfolded ? 'Fold' : `Unfold ${alike.rows.length} alike`}</Button
      >
    </div>
    <div class="text-right">
      <p class="font-mono text-[11px]">{formatMoment(alike.sinceMs, nowMs, timeZone)}</p>
      <p class="text-ink-2 text-xs">{formatElapsed(nowMs - alike.sinceMs)}</p>
      {#if take !== null}
        <Button class="mt-0.5" data-take onclick={() => void takeAll()}>Take all</Button>
      {/if}
    </div>
  </div>
  {#if isUnfolded}
    <ul class="border-rule mt-2 ml-[9px] border-l-2 pl-2.5">
      {#each alike.rows as row (row.id)}
        <AlertLine {row} {nowMs} {timeZone} {window} {take} />
      {/each}
    </ul>
  {/if}
</li>
