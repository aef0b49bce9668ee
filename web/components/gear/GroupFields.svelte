<script lang="ts">
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

<label class="grid gap-0.5"
  >Name <input
    class="field w-56"
    name="name"
    required
    maxlength="64"
    defaultValue={group?.name ?? ''}
  /></label
>
<label class="grid gap-0.5">
  Is well when
  <select class="field" name="rule" bind:value={rule}>
    <option value="all">all members work</option>
    <option value="any">any one works</option>
    <option value="atLeast">at least so many work</option>
  </select>
</label>
{#if rule === 'atLeast'}
  <label class="grid gap-0.5"
    >at least <input
      class="field w-16"
      name="least"
      inputmode="numeric"
      defaultValue={String(group?.least ?? 1)}
    /></label
  >
{/if}
<label class="grid gap-0.5">
  A member of which nothing is heard
  <select class="field" name="unknown" value={group?.unknown ?? 'open'}>
    <option value="open">leaves it open</option>
    <option value="bad">counts as failed</option>
    <option value="well">counts as working</option>
  </select>
</label>
<label class="grid gap-0.5"
  >and whoever has the tag <input
    class="field w-36"
    name="tag"
    maxlength="40"
    placeholder="none"
    defaultValue={group?.tag ?? ''}
  /></label
>
<label class="grid basis-full gap-0.5"
  >Members, by name, with commas <textarea
    class="field"
    name="members"
    rows="2"
    defaultValue={group?.members.join(', ') ?? ''}></textarea></label
>
<label class="grid basis-full gap-0.5"
  >What it is for <input class="field" name="note" maxlength="300" defaultValue={group?.note ?? ''} /></label
>
