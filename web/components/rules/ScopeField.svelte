<script lang="ts" module>
  import type { Where } from '#core/rules'

  interface Named {
    readonly id: number
    readonly name: string
  }
  /** What a scope can be chosen from. */
  export interface Places {
    readonly tags: readonly string[]
    readonly clusters: readonly string[]
    readonly rooms: readonly Named[]
    readonly racks: readonly Named[]
    readonly groups: readonly Named[]
    readonly gear: readonly Named[]
    readonly parts?: readonly Named[]
  }

  const LISTS: Readonly<Record<Where['kind'], keyof Places | null>> = {
    everywhere: null,
    tag: 'tags',
    room: 'rooms',
    rack: 'racks',
    cluster: 'clusters',
    group: 'groups',
    gear: 'gear',
    part: 'parts',
  }

  const WHICH: Readonly<Record<Where['kind'], string>> = {
    everywhere: '',
    tag: 'Which tag',
    room: 'Which room',
    rack: 'Which rack',
    cluster: 'Which cluster',
    group: 'Which group',
    gear: 'Which gear',
    part: 'Which part',
  }

  /** What can be chosen of a kind of place, as a form has it. */
  export function choicesOf(
    places: Places,
    kind: string,
  ): { readonly value: string; readonly name: string }[] {
    const list = LISTS[kind as Where['kind']] ?? null
    return (list === null ? [] : (places[list] ?? [])).map((each) =>
      typeof each === 'string' ? { value: each, name: each } : { value: String(each.id), name: each.name },
    )
  }
</script>

<script lang="ts">
  import Combobox from '../ui/Combobox.svelte'
  import Select from '../ui/Select.svelte'
  /** Where something holds: a kind of place, and which of that kind. Its two fields are `whereKind` and `whereValue`. */
  let {
    label,
    kinds,
    places,
    kind = $bindable(),
    value = $bindable(),
    problem = null,
  }: {
    label: string
    /** Kinds in the order in which they are offered, with the words that fit the label. */
    kinds: readonly (readonly [Where['kind'], string])[]
    places: Places
    kind: string
    value: string
    problem?: string | null | undefined
  } = $props()
  const choices = $derived(choicesOf(places, kind))
</script>

<Select
  {label}
  name="whereKind"
  bind:value={kind}
  options={kinds.map(([key, words]) => ({ value: key, label: words }))}
/>
{#if kind !== 'everywhere'}
  <Combobox
    label={WHICH[kind as Where['kind']]}
    name="whereValue"
    bind:value
    error={problem}
    options={choices.map((choice) => ({ value: choice.value, label: choice.name }))}
  />
{/if}
