<script lang="ts">
  import Progress from '../ui/Progress.svelte'
  import FileInput from '../ui/FileInput.svelte'
  import Button from '../ui/Button.svelte'
  import { formatBytes, formatNumber } from '#core/units'
  import { type Imported, sendReadings } from '$lib/client/importing'

  let sent = $state<{ bytes: number; of: number } | null>(null)
  let outcome = $state<Imported | null>(null)
  let problem = $state<string | null>(null)
  let cancel: (() => void) | null = null
  let input = $state<HTMLInputElement>()

  async function send(): Promise<void> {
    const file = input?.files?.[0]
    if (file === undefined) return
    outcome = null
    problem = null
    sent = { bytes: 0, of: file.size }
    const sending = sendReadings(file, (bytes) => {
      sent = { bytes, of: file.size }
    })
    cancel = sending.cancel
    const answer = await sending.done
    sent = null
    cancel = null
    if (answer.kind === 'refused') problem = answer.message
    else outcome = answer.imported
    if (input !== undefined) input.value = ''
  }
</script>

<p class="text-ink-2 mb-2 text-xs">
  CSV as it is exported here (time, gear, part, measure, value), or OpenMetrics text with times. Gear that is
  not known is passed over and listed.
</p>
<div class="flex items-center gap-2">
  <FileInput
    bind:element={input}
    accept=".csv,.txt,text/csv,text/plain"
    aria-label="File of readings"
    onchange={send}
    disabled={sent !== null}
  />
  {#if sent !== null}<Button onclick={() => cancel?.()}>Cancel</Button>{/if}
</div>
<div role="status" class="mt-2">
  {#if sent !== null}
    <Progress label="Sent" share={sent.of === 0 ? null : sent.bytes / sent.of} />
    <p class="text-ink-2 text-xs">{formatBytes(sent.bytes)} of {formatBytes(sent.of)}</p>
  {/if}
  {#if outcome !== null}
    <p><b class="font-[640]">{formatNumber(outcome.taken, 0)} readings taken in.</b></p>
    {#each outcome.unknown as { name, readings } (name)}
      <p class="text-ink-2 text-xs">
        {name} is not known here: {formatNumber(readings, 0)} readings passed over.
      </p>
    {/each}
    {#each outcome.bad as { line, why } (line)}<p class="text-crit">Line {line}: {why}.</p>{/each}
    {#if outcome.badLines > outcome.bad.length}<p class="text-ink-2 text-xs">
        {outcome.badLines - outcome.bad.length} more lines like these.
      </p>{/if}
  {/if}
  {#if problem !== null}<p class="text-crit" role="alert">{problem}</p>{/if}
</div>
