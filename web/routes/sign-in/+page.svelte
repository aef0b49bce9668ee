<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { form }: PageProps = $props()
</script>

<Door title="Sign in">
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
    {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
    <button class="btn btn-strong justify-self-start">Sign in</button>
  </form>
</Door>
