<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { form }: PageProps = $props()
</script>

<Door title="Second step">
  <form method="POST" class="grid gap-3" use:enhance>
    <label class="grid gap-1">
      Code of this half minute, or a recovery code
      <!-- svelte-ignore a11y_autofocus -- it is the one field of the page -->
      <input
        class="field font-mono"
        name="code"
        autocomplete="one-time-code"
        required
        autofocus
        maxlength="40"
      />
    </label>
    {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
    <div class="flex items-center gap-3">
      <button class="btn btn-strong">Sign in</button>
      <a class="link" href="/sign-in">Begin again</a>
    </div>
  </form>
</Door>
