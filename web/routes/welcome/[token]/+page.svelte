<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
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
    <Form class="grid gap-3">
      <p>
        {data.link.name}, choose the password with which you sign in as <b>{data.link.email}</b>. Ten
        characters at least; several words are easy to keep in mind.
      </p>
      <input type="hidden" name="email" autocomplete="username" value={data.link.email} />
      <Input
        label="Password"
        name="password"
        type="password"
        autocomplete="new-password"
        minlength={10}
        required
      />
      <Input
        label="Repeat password"
        name="again"
        type="password"
        autocomplete="new-password"
        minlength={10}
        required
      />
      {#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
      <Button look="strong" class="justify-self-start">Set password</Button>
    </Form>
  {/if}
</Door>
