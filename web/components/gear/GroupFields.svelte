<script lang="ts">
  import Select from '../ui/Select.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
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
      readonly groups: readonly string[]
      readonly isService: boolean
      readonly plain: string
      readonly owner: string
      readonly level: string
      readonly hours: string
    } | null
  } = $props()
  // svelte-ignore state_referenced_locally -- only what it begins with
  let rule = $state<GroupRule>(group?.rule ?? 'all')
  // svelte-ignore state_referenced_locally -- only what it begins with
  let isService = $state(group?.isService ?? false)
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
<TextArea
  label="Groups in it (comma-separated)"
  name="groups"
  rows="2"
  defaultValue={group?.groups.join(', ') ?? ''}
/>
<Input label="What it is for" name="note" maxlength="300" defaultValue={group?.note ?? ''} />
<Input
  label="Called, in plain words"
  class="w-56"
  name="plain"
  maxlength="80"
  placeholder="the second data path"
  defaultValue={group?.plain ?? ''}
/>
<div class="flex w-full flex-wrap items-end gap-2">
  <Checkbox name="isService" label="It is a service" bind:checked={isService} />
  {#if isService}
    <Input label="Owner" class="w-48" name="owner" maxlength="80" defaultValue={group?.owner ?? ''} />
    <Input
      label="Promised level"
      class="w-28"
      name="level"
      maxlength="20"
      placeholder="99.9 %"
      defaultValue={group?.level ?? ''}
    />
    <Input
      label="Service hours"
      class="w-96"
      name="hours"
      maxlength="600"
      placeholder="around the clock, or Mon–Fri 08:00–17:00; not 2026-12-25"
      defaultValue={group?.hours ?? ''}
    />
  {/if}
</div>
