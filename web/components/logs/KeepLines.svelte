<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import TextArea from '../ui/TextArea.svelte'
  import { formatBytes, formatNumber } from '#core/units'

  /** What lines of devices take, how long they are kept, and who may pass them on for others. */
  let {
    lines,
    message,
  }: {
    lines: {
      readonly size: { readonly lines: number; readonly bytes: number }
      readonly kept: {
        readonly days: number
        readonly megabytes: number
        readonly relays: readonly string[]
      }
    }
    message: string | null
  } = $props()
</script>

<Panel
  title="Log lines"
  id="lines"
  note="about {formatNumber(lines.size.lines, 0)} in {formatBytes(lines.size.bytes)}"
>
  {#if message !== null}<p class="text-crit" role="alert">{message}</p>{/if}
  <Form
    action="?/keepLines"
    submit={() =>
      async ({ update }) =>
        update({ reset: false })}
    class="grid gap-1.5"
  >
    <div class="flex gap-3">
      <Input
        label="Days"
        class="w-24"
        type="number"
        name="days"
        min="1"
        max="3660"
        defaultValue={lines.kept.days}
      />
      <Input
        label="Limit (MB)"
        class="w-24"
        type="number"
        name="megabytes"
        min="10"
        defaultValue={lines.kept.megabytes}
      />
    </div>
    <TextArea
      label="Relays"
      name="relays"
      rows="2"
      placeholder="192.0.2.7, 198.51.100.0/24"
      defaultValue={lines.kept.relays.join('\n')}
    />
    <p class="text-ink-2 text-xs">
      A line is of the gear at the address that it comes from. From a relay, and only from there, it is of the
      host that it names.
    </p>
    <div><Button>Save</Button></div>
  </Form>
</Panel>
