<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
</script>

<Door title={data.link?.purpose === 'reset' ? 'Choose a new password' : 'Welcome'}>
  {#if data.link === null}
    <p role="alert">
      This link was used already, is too old, or was taken back. Ask whoever sent it to you for a new one.
    </p>
  {:else}
    <form method="POST" class="grid gap-3" use:enhance>
      <p>
        {data.link.name}, choose the password with which you sign in as <b>{data.link.email}</b>. Ten
        characters at least; several words are easy to keep in mind.
      </p>
      <input type="hidden" name="email" autocomplete="username" value={data.link.email} />
      <label class="grid gap-1">
        Password
        <input
          class="field"
          name="password"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
        />
      </label>
      <label class="grid gap-1">
        The same again
        <input
          class="field"
          name="again"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
        />
      </label>
      {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
      <button class="btn btn-strong justify-self-start">Set it</button>
    </form>
  {/if}
</Door>
