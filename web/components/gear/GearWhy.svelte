<script lang="ts">
  import PanelTitle from '../ui/PanelTitle.svelte'
  import Link from '../ui/Link.svelte'
  import Button from '../ui/Button.svelte'
  import { invalidate } from '$app/navigation'
  import { STATE_PREDICATES } from '#core/gear'
  import { formatAgo, formatMoment } from '#core/units'
  import { takeAlert } from '$lib/client/requests'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import Glyph from '../ui/Glyph.svelte'
  import type { SectionProps } from './sections'

  /** Why a gear is as it is, and who sees it. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['why']>> = $props()
  let refusal = $state<string | null>(null)

  async function take(id: number): Promise<void> {
    const done = await takeAlert(id)
    refusal = done.kind === 'refused' ? done.message : null
    await invalidate('rack:alerts')
  }
</script>

<PanelTitle>
  {frame.gear.state === 'well' ? 'It is well' : `Why it is ${STATE_PREDICATES[frame.gear.state]}`}
</PanelTitle>
{#if refusal !== null}<p class="text-crit mb-2" role="alert">{refusal}</p>{/if}
{#each view.quiets as quiet (quiet.id)}
  <p class="border-rule mb-2 border-l-2 pl-2" data-testid="quiet-here">
    <b class="font-[620]"
      >{quiet.what === 'accept' ? 'Accepted' : quiet.what === 'off' ? 'Expected off' : 'Quiet'}</b
    >
    {quiet.what === 'accept'
      ? 'until it changes'
      : quiet.untilMs === null
        ? 'until somebody ends it'
        : `until ${formatMoment(quiet.untilMs, frame.nowMs, frame.timeZone)}`}, by {quiet.who}: {quiet.reason}.
    <Link href="/alerts/quiet">{quiet.scopeWords}</Link>
  </p>
{/each}
<ul class="grid gap-2">
  {#each view.rows as row (row.id)}
    <li class="grid grid-cols-[20px_minmax(0,1fr)] gap-1" data-row data-testid="why">
      <span class="pt-0.5"><Glyph state={row.state} /></span>
      <div>
        <b class="font-[640]">{row.title}</b>
        <p class="text-ink-2 text-xs">
          {row.reason} Since {formatMoment(row.sinceMs, frame.nowMs, frame.timeZone)}. Notified: {row.notified}.
        </p>
        {#if row.takenBy !== null}
          <p class="text-ink-2 text-xs">{row.takenBy} has it.</p>
        {:else if frame.mayOperate}
          <Button class="mt-0.5" data-take onclick={() => take(row.id)}>Take</Button>
        {/if}
      </div>
    </li>
  {/each}
  {#each view.silent as words (words)}
    <li class="grid grid-cols-[20px_minmax(0,1fr)] gap-1">
      <span class="pt-0.5"><Glyph state="noData" /></span>{words}.
    </li>
  {/each}
</ul>
{#if view.rows.length === 0 && view.silent.length === 0}<p class="text-ink-2 text-xs">No open alerts.</p>{/if}
<ul class="border-rule-2 mt-3 border-t pt-2">
  {#each view.sources as source (source.id)}
    <li class="text-ink-2 text-xs">
      <Link href="/sources/{source.id}">{source.name}</Link>, heard {formatAgo(source.heardMs, frame.nowMs)}
      {#if source.failure !== null}<span class="text-blind">· {source.failure}</span>{/if}
    </li>
  {/each}
</ul>
