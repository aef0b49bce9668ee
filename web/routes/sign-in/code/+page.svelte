<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Door from '$lib/components/ui/Door.svelte'
  import type { PageProps } from './$types'

  let { form }: PageProps = $props()
</script>

<Door title="Second step">
  <Form class="grid gap-3">
    <Input
      label="Code of this half minute, or a recovery code <!-- svelte-ignore a11y_autofocus -- it is the one field of the page -->"
      class="font-mono"
      name="code"
      autocomplete="one-time-code"
      required
      autofocus
      maxlength="40"
    />
    {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
    <div class="flex items-center gap-3">
      <Button look="strong">Sign in</Button>
      <Link href="/sign-in">Begin again</Link>
    </div>
  </Form>
</Door>
