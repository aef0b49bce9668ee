<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const message = $derived(form?.message ?? data.refused)
</script>

<Door title="Sign in">
  {#if data.hasChosen}<p class="mb-3" role="status">Your password is set. Sign in with it.</p>{/if}
  <Form class="grid gap-3">
    <Input
      label="Mail address"
      name="email"
      type="email"
      autocomplete="username"
      required
      defaultValue={form?.email ?? ''}
    />
    <Input label="Password" name="password" type="password" autocomplete="current-password" required />
    {#if message}<p class="text-crit" role="alert">{message}</p>{/if}
    <Button look="strong" class="justify-self-start">Sign in</Button>
  </Form>
  {#if data.directory !== null}
    <p class="border-rule-2 mt-4 border-t pt-4">
      <Button href="/sign-in/directory" data-sveltekit-reload>Sign in with {data.directory}</Button>
    </p>
  {/if}
</Door>
