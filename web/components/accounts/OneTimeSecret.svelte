<script lang="ts">
  /** Something that is shown once and has to be taken along now. */
  let { value, what }: { value: string; what: string } = $props()
  let isCopied = $state(false)

  async function copy(): Promise<void> {
    // Without TLS a browser may have no clipboard; the field is there to copy from.
    await navigator.clipboard?.writeText(value).then(
      () => (isCopied = true),
      () => undefined,
    )
  }
</script>

<section class="panel border-accent border-l-4" role="status">
  <p>{what}</p>
  <div class="mt-2 flex gap-2">
    <input
      class="field flex-1 font-mono text-[12px]"
      readonly
      {value}
      aria-label="To be taken along"
      onfocus={(event) => event.currentTarget.select()}
    />
    <button class="btn" onclick={() => void copy()}>{isCopied ? 'Copied' : 'Copy'}</button>
  </div>
</section>
