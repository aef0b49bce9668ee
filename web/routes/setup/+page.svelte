<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { form }: PageProps = $props()
</script>

<Door title="First administrator">
  <p class="text-ink-2 mb-3 text-xs">
    This installation is new. Whoever fills this in administers it, and can let others in afterwards.
  </p>
  <Form class="grid gap-3">
    <Input label="Name of the site" name="site" required maxlength="64" defaultValue={form?.site ?? ''} />
    <Input
      label="Your name"
      name="name"
      autocomplete="name"
      required
      maxlength="64"
      defaultValue={form?.name ?? ''}
    />
    <Input
      label="Mail address"
      name="email"
      type="email"
      autocomplete="username"
      required
      defaultValue={form?.email ?? ''}
    />
    <Input
      label="Password, at least 10 characters"
      name="password"
      type="password"
      autocomplete="new-password"
      minlength={10}
      required
    />
    {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
    <Button look="strong" class="justify-self-start">Begin</Button>
  </Form>
</Door>
