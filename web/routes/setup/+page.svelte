<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { form }: PageProps = $props()
</script>

<Door title="First administrator">
  <p class="muted mb-3">
    This installation is new. Whoever fills this in administers it, and can let others in afterwards.
  </p>
  <form method="POST" class="grid gap-3" use:enhance>
    <label class="grid gap-1">
      Name of the site
      <input class="field" name="site" required maxlength="64" value={form?.site ?? ''} />
    </label>
    <label class="grid gap-1">
      Your name
      <input class="field" name="name" autocomplete="name" required maxlength="64" value={form?.name ?? ''} />
    </label>
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
      Password, at least 10 characters
      <input
        class="field"
        name="password"
        type="password"
        autocomplete="new-password"
        minlength="10"
        required
      />
    </label>
    {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
    <button class="btn btn-strong justify-self-start">Begin</button>
  </form>
</Door>
