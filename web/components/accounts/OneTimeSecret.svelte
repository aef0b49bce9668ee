<script lang="ts">
  import Panel from '../ui/Panel.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
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

<Panel class="border-accent border-l-4" role="status">
  <p>{what}</p>
  <div class="mt-2 flex gap-2">
    <Input
      class="flex-1 font-mono text-[12px]"
      readonly
      defaultValue={value}
      aria-label="To be taken along"
      onfocus={(event) => event.currentTarget.select()}
    />
    <Button onclick={() => void copy()}>{isCopied ? 'Copied' : 'Copy'}</Button>
  </div>
</Panel>
