<script lang="ts">
  import Button from '../ui/Button.svelte'
  import Confirm from '../ui/Confirm.svelte'
  import Fold from '../ui/Fold.svelte'
  import Form from '../ui/Form.svelte'
  import Input from '../ui/Input.svelte'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'

  /** How old the battery of a UPS is, and when it will be as old as it is made to get. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['battery']>> = $props()
  const message = $derived(frame.messageOf('batteryMessage'))
</script>

<Fold isPanel titleClass="font-[640]" opens={message !== null}>
  {#snippet title()}Battery <span class="text-ink-2 text-xs"
      >{view.sentence ??
        'Its age is not known. Enter the day on which it was put in, and its end is forecast.'}</span
    >{/snippet}
  {#if frame.mayAdminister}
    {#if message !== null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
    <div class="mt-2 flex flex-wrap items-end gap-3">
      <Form
        action="?/battery"
        submit={() =>
          ({ update }) =>
            update({ reset: false })}
        class="flex flex-wrap items-end gap-2"
      >
        <Input
          label="Installed on"
          type="date"
          class="w-40"
          name="installed"
          required
          defaultValue={view.installed}
        />
        <Input
          label="Made for"
          unit="years"
          class="w-16"
          name="years"
          required
          maxlength="5"
          defaultValue={view.years}
        />
        <Button look="strong">Save</Button>
      </Form>
      {#if view.who !== null}
        <Form action="?/dropBattery">
          <Confirm
            label="Remove"
            question="Remove what is noted of this battery?"
            consequence="Its age is not forecast any more. The past of it stays."
            act="Remove"
          />
        </Form>
      {/if}
    </div>
    <p class="text-ink-2 mt-1 text-xs">
      After an exchange enter the new day: the new one begins a history of its own{view.who === null
        ? '.'
        : `. Noted by ${view.who}.`}
    </p>
  {:else}
    <p class="text-ink-2 mt-2 text-xs">Noted by {view.who}.</p>
  {/if}
</Fold>
