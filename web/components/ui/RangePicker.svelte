<script lang="ts">
  import { Popover } from 'bits-ui'
  import { FIELD, MENU, type Option } from './looks'

  /** A span of time: one of the usual ones up to now, or from one moment to another of the site's time zone. */
  let {
    presets,
    preset,
    fromMs,
    toMs,
    label,
    timeZone,
    choosePreset,
    chooseRange,
    'aria-label': ariaLabel,
  }: {
    presets: readonly Option[]
    /** The value of the one that is chosen; `null` of a span of one's own. */
    preset: string | null
    fromMs: number
    toMs: number
    /** What stands on the button. */
    label: string
    timeZone: string
    choosePreset: (value: string) => void
    chooseRange: (fromMs: number, toMs: number) => void
    'aria-label': string
  } = $props()
  let isOpen = $state(false)
</script>

<Popover.Root bind:open={isOpen}>
  <Popover.Trigger class={[FIELD, 'whitespace-nowrap']} aria-label={ariaLabel}>{label} ▾</Popover.Trigger>
  <Popover.Portal>
    <Popover.Content class={[MENU, 'flex max-w-none gap-3 p-3']} sideOffset={4} align="end">
      <ul class="border-rule grid content-start border-r pr-3">
        {#each presets as { value, label: words } (value)}
          <li>
            <button
              type="button"
              aria-pressed={value === preset}
              class="hover:bg-accent-soft w-full px-3 py-1 text-left whitespace-nowrap aria-pressed:font-[640]"
              onclick={() => {
                isOpen = false
                choosePreset(value)
              }}>{words}</button
            >
          </li>
        {/each}
      </ul>
      {#if isOpen}
        <!-- The calendar comes when it is asked for: every page has this button, and few a need for it. -->
        {#await import('./RangeChoice.svelte')}
          <p class="text-ink-3 w-56 text-xs">Calendar is loading.</p>
        {:then { default: RangeChoice }}
          <RangeChoice
            {fromMs}
            {toMs}
            {timeZone}
            choose={(from, to) => {
              isOpen = false
              chooseRange(from, to)
            }}
          />
        {:catch}
          <p class="text-crit w-56 text-xs">The calendar could not be loaded. Close this and try again.</p>
        {/await}
      {/if}
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
