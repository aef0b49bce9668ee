<script lang="ts">
  import type { SubmitFunction } from '@sveltejs/kit'
  import { type Snippet, tick } from 'svelte'
  import type { HTMLFormAttributes } from 'svelte/elements'
  import { enhance } from '$lib/client/forms'
  import { provideProblems } from './problems'

  /**
   * A form whose action answers. What is wrong stands at its field, the first such field has the focus, and what was
   * entered stays.
   */
  let {
    submit,
    children,
    ...rest
  }: Omit<HTMLFormAttributes, 'method' | 'children'> & {
    submit?: SubmitFunction | undefined
    children: Snippet
  } = $props()
  let problems = $state<Readonly<Record<string, string>>>({})
  provideProblems({ of: (name) => problems[name] ?? null })

  const sent: SubmitFunction = async (given) => {
    const after = await submit?.(given)
    return async (outcome) => {
      const { result } = outcome
      problems =
        result.type === 'failure' ? ((result.data?.['problems'] ?? {}) as Record<string, string>) : {}
      await (after ? after(outcome) : outcome.update())
      if (result.type !== 'failure') return
      await tick()
      given.formElement.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus()
    }
  }
</script>

<form method="POST" use:enhance={sent} {...rest}>{@render children()}</form>
