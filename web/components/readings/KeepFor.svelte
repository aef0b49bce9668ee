<script lang="ts">
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import { formatBytes } from '#core/units'
  import { enhance } from '$lib/client/forms'

  let {
    measure,
    label,
    rawDays,
    summaryDays,
    ask,
  }: {
    measure: string
    label: string
    rawDays: number
    summaryDays: number
    /** What another retention would free: bytes, or why it cannot be. */
    ask: (asked: { measure: string; rawDays: string; summaryDays: string }) => Promise<number | string>
  } = $props()

  let form = $state<HTMLFormElement | null>(null)
  let words = $state('')
  let isChanged = $state(false)

  async function look(): Promise<void> {
    if (form === null) return
    const given = Object.fromEntries(new FormData(form)) as { rawDays: string; summaryDays: string }
    isChanged = given.rawDays !== String(rawDays) || given.summaryDays !== String(summaryDays)
    words = ''
    if (!isChanged) return
    const answer = await ask({ measure, ...given })
    words =
      typeof answer === 'string'
        ? answer
        : answer === 0
          ? 'frees nothing now'
          : `frees ${formatBytes(answer)}`
  }
</script>

<form
  method="POST"
  action="?/keep"
  class="flex items-center gap-1.5"
  bind:this={form}
  oninput={look}
  use:enhance={() =>
    async ({ update }) => {
      isChanged = false
      words = ''
      await update({ reset: false })
    }}
>
  <input type="hidden" name="measure" value={measure} />
  <Input
    class="w-15 py-0.5 text-right"
    name="rawDays"
    inputmode="numeric"
    defaultValue={rawDays}
    aria-label="{label}: days of readings"
  />
  <Input
    class="w-17 py-0.5 text-right"
    name="summaryDays"
    inputmode="numeric"
    defaultValue={summaryDays}
    aria-label="{label}: days of summaries"
  />
  {#if isChanged}<Button>Save</Button>{/if}
  <span class="text-ink-2 text-xs" role="status">{words}</span>
</form>
