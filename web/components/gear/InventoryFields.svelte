<script lang="ts">
  import Button from '../ui/Button.svelte'
  import Confirm from '../ui/Confirm.svelte'
  import FileInput from '../ui/FileInput.svelte'
  import Fold from '../ui/Fold.svelte'
  import Form from '../ui/Form.svelte'
  import Input from '../ui/Input.svelte'
  import Select from '../ui/Select.svelte'

  /** Fields of one's own, and a list that is read in. */
  let {
    fields,
    message,
    done,
  }: {
    fields: readonly { readonly id: number; readonly name: string; readonly kind: string }[]
    message: string | null
    done: string | null
  } = $props()
</script>

<Fold isPanel titleClass="font-[640]" opens={message != null || done != null}>
  {#snippet title()}Own fields, and reading a list{/snippet}
  {#if message != null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
  {#if done != null}<p class="mt-2" role="status">{done}</p>{/if}
  <Form action="?/import" enctype="multipart/form-data" class="mt-2 flex flex-wrap items-end gap-2">
    <FileInput label="A list as CSV or XLSX" class="w-72" name="file" accept=".csv,.xlsx" required />
    <Button look="strong">Read it</Button>
    <span class="text-ink-2 max-w-xl text-xs"
      >Gear is found by Id, else Serial, else Name; taken over are Name, Warranty ends and your own fields.
      One wrong line, and nothing is changed. The file kept above is the form to fill in.</span
    >
  </Form>
  <div class="border-rule-2 mt-3 flex flex-wrap items-end gap-3 border-t pt-3">
    {#each fields as field (field.id)}
      <Form action="?/dropField" class="inline-flex items-center gap-2">
        <input type="hidden" name="id" value={field.id} />
        <span>{field.name} <span class="text-ink-2 text-xs">{field.kind}</span></span>
        <Confirm
          label="Delete field"
          question="Delete the field {field.name}?"
          consequence="What stands in it of all gear is deleted with it."
          act="Delete field"
        />
      </Form>
    {/each}
    <Form action="?/field" class="inline-flex items-end gap-2">
      <Input label="New field" class="w-44" name="name" required maxlength="40" />
      <Select
        label="Kind"
        name="kind"
        options={[
          { value: 'text', label: 'text' },
          { value: 'number', label: 'number' },
          { value: 'date', label: 'day' },
        ]}
      />
      <Button>Add field</Button>
    </Form>
  </div>
</Fold>
