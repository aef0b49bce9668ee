<script lang="ts">
  import Link from '../ui/Link.svelte'
  import Button from '../ui/Button.svelte'
  import { invalidate } from '$app/navigation'
  import { formatAgo } from '#core/units'
  import { chime } from '$lib/client/chime'
  import { takeAlert } from '$lib/client/requests'
  import { untrack } from 'svelte'
  import { whenResting } from '$lib/client/resting'
  import { useLive } from '$lib/client/live.svelte'
  import Glyph from '../ui/Glyph.svelte'

  interface Call {
    readonly id: string
    readonly alertId: number
    readonly title: string
    readonly severity: 'critical' | 'warning'
    readonly sentAtMs: number
    readonly sound: 'no' | 'once' | 'taken'
  }
  /** What is called out on screen: one line under the head of every page, until somebody takes the alert. Watch shows it anyhow. */
  let { calls, mayTake, isShown }: { calls: readonly Call[]; mayTake: boolean; isShown: boolean } = $props()

  const AGAIN_MS = 30_000
  /** What is older than this was there before the page: it is shown, and makes no sound. */
  const FRESH_MS = 60_000
  const live = useLive()
  const heard: Record<string, true> = {}
  let refusal = $state<string | null>(null)
  const loud = $derived(calls.some(({ sound }) => sound === 'taken'))

  $effect(() => {
    const fresh = calls.filter(
      ({ id, sound, sentAtMs }) =>
        sound !== 'no' && heard[id] === undefined && live.nowMs - sentAtMs < FRESH_MS,
    )
    for (const { id } of fresh) heard[id] = true
    if (fresh.length > 0) chime()
  })
  $effect(() => {
    if (!loud) return
    const timer = setInterval(chime, AGAIN_MS)
    return () => clearInterval(timer)
  })
  async function take(alertId: number): Promise<void> {
    const done = await takeAlert(alertId)
    refusal = done.kind === 'refused' ? done.message : null
    await invalidate('rack:alerts')
    // Of one's own doing it is expected.
    standing = calls
  }
  // It moves all that is below it: another line comes, or goes, when the pointer rests.
  let standing = $state.raw(untrack(() => calls))
  const lines = (each: readonly Call[]): string => each.map(({ id }) => id).join(' ')
  const wanted = $derived(lines(calls))
  let stopWaiting: (() => void) | null = null
  $effect(() => {
    const next = calls
    if (wanted === untrack(() => lines(standing))) standing = next
    // One that waits already is not begun anew: in a storm it would never end.
    else
      stopWaiting ??= whenResting(() => {
        stopWaiting = null
        standing = calls
      })
  })
  $effect(() => () => stopWaiting?.())
  const [shown, rest] = $derived([standing.slice(0, 2), standing.length - 2])
</script>

{#if isShown && standing.length > 0}
  <aside
    class="border-rule bg-sheet grid gap-1 border-b px-5 py-1.5"
    aria-label="Called out"
    data-testid="call-strip"
  >
    {#each shown as call (call.id)}
      <p class="flex items-center gap-2.5">
        <Glyph state={call.severity} />
        <span class="text-ink-2 text-xs whitespace-nowrap"
          >Called out {formatAgo(call.sentAtMs, live.nowMs)}</span
        >
        <Link class="min-w-0 truncate font-[620]" href="/alerts/{call.alertId}">{call.title}</Link>
        {#if mayTake}<Button class="ml-auto whitespace-nowrap" onclick={() => void take(call.alertId)}
            >I have it</Button
          >{/if}
      </p>
    {/each}
    {#if rest > 0}<p class="text-ink-2 text-xs">
        <Link href="/alerts">and {rest} more</Link>
      </p>{/if}
    {#if refusal !== null}<p class="text-crit" role="alert">{refusal}</p>{/if}
  </aside>
{/if}
