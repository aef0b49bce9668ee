<script lang="ts">
  import { STAGE_LABELS, type StageReport } from '#core/sources'
  import { formatMilliseconds } from '#core/units'

  /** The stages of a check, one under the other; the one that failed shows what was sent and what came back. */
  let { stages, isOver }: { stages: readonly StageReport[]; isOver: boolean } = $props()

  const WORDS = { passed: 'passed', failed: 'failed', notNeeded: 'not needed', waiting: 'waiting' } as const
  const under = $derived(isOver ? -1 : stages.findIndex((each) => each.state === 'waiting'))
</script>

<ol data-testid="stages">
  {#each stages as { stage, state, said, sent, received, tookMs }, index (stage)}
    <li
      class="border-rule-2 grid grid-cols-[22px_minmax(0,1fr)_auto] gap-x-1.5 border-t py-1.5"
      data-testid="stage-{stage}"
      data-state={state}
    >
      <svg viewBox="0 0 14 14" class="mt-0.5 h-3.5 w-3.5" role="img" aria-label={WORDS[state]}>
        {#if state === 'passed'}
          <path d="M2 7.5l3.2 3.2L12 3.5" fill="none" class="stroke-ink-2" stroke-width="1.7" />
        {:else if state === 'failed'}
          <path d="M2 1v12" class="stroke-crit" stroke-width="2" />
          <path d="M3 1.5h9.5L9.5 5l3 3.5H3z" class="fill-crit" />
        {:else if state === 'notNeeded'}
          <path d="M3 7h8" class="stroke-ink-3" stroke-width="1.5" />
        {:else}
          <rect
            x="3.5"
            y="3.5"
            width="7"
            height="7"
            fill="none"
            class="stroke-ink-3"
            stroke-width="1.2"
            stroke-dasharray={index === under ? 'none' : '1.6 1.8'}
          />
        {/if}
      </svg>
      <div class="min-w-0">
        <span class={state === 'waiting' ? 'text-ink-3' : 'font-[640]'}>{STAGE_LABELS[stage]}</span>
        {#if index === under}<span class="text-ink-2 text-xs">…under way</span>{/if}
        {#if said !== ''}<p class="text-ink-2 text-xs break-words {state === 'failed' ? 'text-ink' : ''}">
            {said}
          </p>{/if}
        {#if state === 'failed' && sent !== null}
          <dl class="text-ink-2 mt-1 grid grid-cols-[70px_minmax(0,1fr)] gap-x-2 text-xs">
            <dt>Sent</dt>
            <dd class="font-mono text-[11px] break-all">{sent}</dd>
            <dt>Came back</dt>
            <dd class="font-mono text-[11px] break-all">{received}</dd>
          </dl>
        {/if}
      </div>
      <span class="text-ink-2 text-xs whitespace-nowrap"
        >{tookMs === null ? '' : formatMilliseconds(tookMs)}</span
      >
    </li>
  {/each}
</ol>
