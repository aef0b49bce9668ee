<script lang="ts">
  import { formatMoment } from '#core/units'
  import Glyph from '../ui/Glyph.svelte'

  export interface DeviceText {
    readonly id: string
    readonly atMs: number
    readonly kind: string
    /** A word of RFC 5424 §6.2.1, and its number: 0 is the worst. */
    readonly word: string
    readonly severity: number
    readonly app: string | null
    readonly body: string
    readonly times: number
  }
  /** What a device said by itself, newest first. */
  let { texts, nowMs, timeZone }: { texts: readonly DeviceText[]; nowMs: number; timeZone: string } = $props()
</script>

<ul class="max-h-80 overflow-y-auto" data-testid="device-texts">
  {#each texts as { id, atMs, kind, word, severity, app, body, times } (id)}
    <li
      class="border-rule-2 grid grid-cols-[16px_110px_84px_minmax(0,1fr)] items-baseline gap-2 border-t py-0.5"
    >
      <span
        >{#if severity <= 4}<Glyph state={severity <= 2 ? 'critical' : 'warning'} label={word} />{/if}</span
      >
      <span class="text-ink-2 text-xs whitespace-nowrap">{formatMoment(atMs, nowMs, timeZone)}</span>
      <span class="text-ink-2 text-xs">{word}</span>
      <span class="min-w-0 break-words"
        >{#if kind === 'trap'}<span class="text-ink-2 text-xs">SNMP notification:</span>
        {:else if app !== null}<span class="text-ink-2 text-xs">{app}:</span>{/if}
        {body}{#if times > 1}<span class="text-ink-2 text-xs"> · {times} times</span>{/if}</span
      >
    </li>
  {/each}
</ul>
