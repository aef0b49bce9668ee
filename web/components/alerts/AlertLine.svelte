<script lang="ts">
  import Button from '../ui/Button.svelte'
  import { formatElapsed, formatMoment } from '#core/units'
  import type { AlertRow } from '#core/alerts'
  import Glyph from '../ui/Glyph.svelte'
  import Tooltip from '../ui/Tooltip.svelte'
  import TinyCurve from '../readings/TinyCurve.svelte'

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
    take?: ((id: number) => void | Promise<void>) | null
  } = $props()
  let isUnfolded = $state(false)
  /** What went out is a mark; that nobody knows of it stands in words. */
  const isThrough = $derived(!/nobody|in vain|not through/.test(row.notified))
</script>

<li
  class="border-rule-2 grid grid-cols-[22px_minmax(0,1fr)_96px] items-center gap-2.5 border-t py-2.5 lg:grid-cols-[22px_minmax(0,1fr)_158px_96px]"
  data-row
  data-testid="alert-row"
>
  <Glyph state={row.state} />
  <div>
    <p>
      <a href={row.href} class="font-[640] hover:underline">{row.title}</a>
      {#if row.flaps > 0}<span class="text-warn ml-1">flaps, {row.flaps} times</span>{/if}
      {#if row.place !== null}<span class="place ml-1">{row.place}</span>{/if}
    </p>
    <p class="text-ink-2 text-xs">
      {row.reason}
      {#if row.consequence !== ''}<span class="text-ink">{row.consequence}</span>{/if}
      {#if !isThrough}<span class="text-ink-3">Notified: {row.notified}.</span>{/if}
      {#if row.folded.length > 0}
        <span class="text-ink-3" title={row.folded.map((each) => each.title).join('; ')}>
          Also: {row.folded.map((each) => each.reason.replace(/\.$/, '').toLowerCase()).join('; ')}.
        </span>
      {/if}
    </p>
    {#if row.followOns.length > 0}
      <Button
        look="link"
        class="text-ink-2 mt-0.5 text-xs"
        data-fold
        aria-expanded={isUnfolded}
        onclick={() => (isUnfolded = !isUnfolded)}
        >{isUnfolded ? 'Fold' : 'Unfold'} what follows, {row.followOns.length}</Button
      >
      {#if isUnfolded}
        <ul class="border-rule mt-1 border-l-2 pl-2.5" data-testid="follow-ons">
          {#each row.followOns as { id, title, path } (id)}
            <li class="py-0.5">
              <a class="hover:underline" href="/alerts/{id}">{title}</a>
              <span class="text-ink-2 text-xs">{path}</span>
            </li>
          {/each}
        </ul>
      {/if}
    {/if}
  </div>
  <div class="hidden lg:block">
    {#if row.curve !== null}
      <TinyCurve curve={row.curve} fromMs={window.fromMs} toMs={window.toMs} label="How it came to this" />
    {/if}
  </div>
  <div class="text-right">
    <p class="font-mono text-[11px]">
      <a class="hover:underline" href="/alerts/{row.id}">{formatMoment(row.sinceMs, nowMs, timeZone)}</a>
    </p>
    <p class="text-ink-2 text-xs">
      {#if isThrough}
        <Tooltip text="Notified: {row.notified}" class="text-ink-3 mr-1 align-[-1px]">
          <svg width="13" height="10" viewBox="0 0 13 10" aria-hidden="true">
            <path d="M.5.5h12v9H.5zl6 5 6-5" fill="none" stroke="currentColor" />
          </svg><span class="sr-only">Notified: {row.notified}.</span>
        </Tooltip>
      {/if}
      {formatElapsed(nowMs - row.sinceMs)}
    </p>
    {#if row.takenBy !== null}
      <p class="text-ink-2 text-xs" data-testid="taken-by">{row.takenBy} has it</p>
    {:else if take !== null}
      <p class="mt-0.5 flex items-center justify-end gap-1.5">
        <a class="text-ink-2 text-xs hover:underline" data-quiet href="/alerts/{row.id}#quiet">Quiet</a>
        <Button data-take onclick={() => void take(row.id)}>Take</Button>
      </p>
    {/if}
  </div>
</li>
