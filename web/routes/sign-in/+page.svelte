<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const message = $derived(form?.message ?? data.refused)
</script>

<Door title="Sign in">
  {#if data.hasChosen}<p class="mb-3" role="status">Your password is set. Sign in with it.</p>{/if}
  <form method="POST" class="grid gap-3" use:enhance>
    <label class="grid gap-1">
      Mail address
      <input
        class="field"
        name="email"
        type="email"
        autocomplete="username"
        required
        value={form?.email ?? ''}
      />
    </label>
    <label class="grid gap-1">
      Password
      <input class="field" name="password" type="password" autocomplete="current-password" required />
    </label>
    {#if message}<p class="text-crit" role="alert">{message}</p>{/if}
    <button class="btn btn-strong justify-self-start">Sign in</button>
  </form>
  {#if data.directory !== null}
    <p class="border-rule-2 mt-4 border-t pt-4">
      <a class="btn" href="/sign-in/directory" data-sveltekit-reload>Sign in with {data.directory}</a>
    </p>
  {/if}
</Door>
