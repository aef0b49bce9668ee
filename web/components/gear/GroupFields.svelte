<script lang="ts">
  import Select from '../ui/Select.svelte'
  import Input from '../ui/Input.svelte'
  import TextArea from '../ui/TextArea.svelte'
  import type { GroupRule, UnknownMembers } from '#core/gear'

  /** The fields of a group. What is entered is the person's, whatever the screen is told meanwhile. */
  let {
    group = null,
  }: {
    group?: {
      readonly name: string
      readonly note: string
      readonly rule: GroupRule
      readonly least: number
      readonly unknown: UnknownMembers
      readonly tag: string | null
      readonly members: readonly string[]
    } | null
  } = $props()
  // svelte-ignore state_referenced_locally -- only what it begins with
  let rule = $state<GroupRule>(group?.rule ?? 'all')
</script>

<Input label="Name" class="w-56" name="name" required maxlength="64" defaultValue={group?.name ?? ''} />
<Select
  label="Well when"
  name="rule"
  bind:value={rule}
  options={[
    { value: 'all', label: 'all members work' },
    { value: 'any', label: 'any one works' },
    { value: 'atLeast', label: 'at least so many work' },
  ]}
/>
{#if rule === 'atLeast'}
  <Input
    label="Minimum"
    class="w-16"
    name="least"
    inputmode="numeric"
    defaultValue={String(group?.least ?? 1)}
  />
{/if}
<Select
  label="Member without data"
  name="unknown"
  defaultValue={group?.unknown ?? 'open'}
  options={[
    { value: 'open', label: 'leaves it open' },
    { value: 'bad', label: 'counts as failed' },
    { value: 'well', label: 'counts as working' },
  ]}
/>
<Input
  label="Tag"
  class="w-36"
  name="tag"
  maxlength="40"
  placeholder="none"
  defaultValue={group?.tag ?? ''}
/>
<TextArea
  label="Members (comma-separated)"
  name="members"
  rows="2"
  defaultValue={group?.members.join(', ') ?? ''}
/>
<Input label="What it is for" name="note" maxlength="300" defaultValue={group?.note ?? ''} />
