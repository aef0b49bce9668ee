<script lang="ts">
  /** The steps of a call-out from left to right, as time goes: when, and what happens then. */
  let {
    steps,
    label,
  }: {
    /** All of them as a sentence. */
    label: string
    steps: readonly {
      readonly after: string
      readonly isFirst: boolean
      readonly ifNotTaken: boolean
      readonly words: string
    }[]
  } = $props()
</script>

<ol class="flex flex-wrap gap-y-2" aria-label={label}>
  {#each steps as step, index (index)}
    <li class="relative min-w-40 pr-6">
      <span class="bg-rule absolute top-[5px] right-0 left-0 h-px" aria-hidden="true"></span>
      <span
        class="border-ink-2 bg-sheet relative block h-[11px] w-[11px] rounded-full border-2"
        aria-hidden="true"
      ></span>
      <span class="text-ink-2 mt-0.5 block text-xs"
        >{step.after}{step.ifNotTaken ? ', if nobody has it' : ''}</span
      >
      <span class="block">{step.words}</span>
    </li>
  {/each}
</ol>
