<script lang="ts" module>
  /** What a field tells the control in it. */
  export interface ForControl {
    readonly id: string
    readonly 'aria-describedby': string | undefined
    readonly 'aria-invalid': 'true' | undefined
  }
  export interface FieldProps {
    /** Absent where the control has a label of its own for assistive technology. */
    readonly label?: string | undefined
    /** One short sentence below it. */
    readonly help?: string | undefined
    /** What is wrong, where the form itself does not say so. */
    readonly error?: string | null | undefined
  }
</script>

<script lang="ts">
  import type { Snippet } from 'svelte'
  import { useProblems } from './problems'

  let {
    label,
    help,
    error = null,
    name,
    required = false,
    inline = false,
    children,
  }: FieldProps & {
    /** Under which its form knows it. */
    name?: string | null | undefined
    required?: boolean | undefined
    /** The label stands beside the control. */
    inline?: boolean
    children: Snippet<[ForControl]>
  } = $props()
  const id = $props.id()
  const ofForm = useProblems()
  const problem = $derived(error ?? (name == null ? null : (ofForm?.of(name) ?? null)))
  const given = $derived<ForControl>({
    id,
    'aria-describedby': problem ? `${id}-problem` : help ? `${id}-help` : undefined,
    'aria-invalid': problem ? 'true' : undefined,
  })
</script>

{#snippet below()}
  {#if help}<p id="{id}-help" class="text-ink-3 text-xs">{help}</p>{/if}
  {#if problem}<p id="{id}-problem" class="text-crit text-xs">{problem}</p>{/if}
{/snippet}

{#if label === undefined}
  {@render children(given)}
  {@render below()}
{:else if inline}
  <div class="grid gap-0.5">
    <div class="flex items-center gap-2">
      {@render children(given)}
      <label for={id}>{label}</label>
    </div>
    {@render below()}
  </div>
{:else}
  <div class="grid content-start gap-0.5">
    <label for={id} class={['text-ink-2 text-xs', required && "after:text-ink-3 after:content-['_*']"]}
      >{label}</label
    >
    {@render children(given)}
    {@render below()}
  </div>
{/if}
