<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Input from '../ui/Input.svelte'
  import TextArea from '../ui/TextArea.svelte'
  import { untrack } from 'svelte'
  import { type ChannelKind, CHANNEL_WORDS } from '#core/callouts'

  /** The form of one channel, or of a new one. */
  let {
    channel,
    message,
  }: {
    channel: {
      readonly id: number
      readonly name: string
      readonly kind: ChannelKind
      readonly settings: Readonly<Record<string, unknown>>
      readonly hasSecret: boolean
    } | null
    message: string | null
  } = $props()
  let kind = $state<ChannelKind>(untrack(() => channel?.kind ?? 'mail'))
  const of = (name: string, otherwise = ''): string => {
    const value = channel?.settings[name]
    return typeof value === 'string' || typeof value === 'number' ? String(value) : otherwise
  }
  const SECRETS = {
    mail: 'Password',
    text: 'Token or password',
    hook: 'Secret it is signed with',
    screen: '',
  } as const
</script>

{#if message !== null}<p class="text-crit mb-2" role="alert">{message}</p>{/if}
<Form
  action="?/keep"
  submit={() =>
    ({ update }) =>
      update({ reset: channel === null })}
  class="flex flex-wrap items-end gap-2.5"
>
  <input type="hidden" name="id" value={channel?.id ?? ''} />
  {#if channel === null}
    <Select
      label="Kind"
      name="kind"
      bind:value={kind}
      options={Object.entries(CHANNEL_WORDS).map(([key, word]) => ({ value: key, label: word }))}
    />
  {:else}<input type="hidden" name="kind" value={channel.kind} />{/if}
  <Input label="Name" class="w-44" name="name" required maxlength="60" defaultValue={channel?.name ?? ''} />
  {#if kind === 'mail'}
    <Input label="Mail server" class="w-44" name="host" required defaultValue={of('host')} />
    <Input
      label="Port"
      class="w-20"
      name="port"
      required
      inputmode="numeric"
      defaultValue={of('port', '587')}
    />
    <Input label="From" class="w-52" name="from" type="email" required defaultValue={of('from')} />
    <Input
      label="User name (optional)"
      class="w-36"
      name="username"
      autocomplete="off"
      defaultValue={of('username')}
    />
    <Select
      label="Encryption"
      name="tls"
      defaultValue={of('tls', 'offered')}
      options={[
        { value: 'offered', label: 'when the server offers it; always with a password' },
        { value: 'required', label: 'always (STARTTLS)' },
        { value: 'implicit', label: 'always, from the start (port 465)' },
      ]}
    />
    <TextArea
      label="Certificate of an authority of your own"
      class="w-72"
      name="authorityPem"
      rows="1"
      placeholder="-----BEGIN CERTIFICATE-----"
      defaultValue={of('authorityPem')}
    />
  {:else if kind === 'text'}
    <Input label="Address of the gateway" class="w-80" name="url" required defaultValue={of('url')} />
    <Select
      label="Role"
      name="format"
      defaultValue={of('format', 'json')}
      options={[
        { value: 'json', label: 'JSON' },
        { value: 'form', label: 'a form' },
      ]}
    />
    <Input label="Field of the number" class="w-24" name="toField" defaultValue={of('toField', 'to')} />
    <Input label="Field of the text" class="w-24" name="textField" defaultValue={of('textField', 'text')} />
    <Input label="Field of the id" class="w-24" name="idField" defaultValue={of('idField', 'id')} />
    <Input
      label="User name (empty for a token)"
      class="w-36"
      name="username"
      autocomplete="off"
      defaultValue={of('username')}
    />
  {:else if kind === 'hook'}
    <Input label="Address" class="w-96" name="url" required defaultValue={of('url')} />
  {:else}
    <Select
      label="Sound"
      name="sound"
      defaultValue={of('sound', 'no')}
      options={[
        { value: 'no', label: 'none' },
        { value: 'once', label: 'once' },
        { value: 'taken', label: 'every half minute until somebody has it' },
      ]}
    />
  {/if}
  {#if kind !== 'screen'}
    <Input
      label={`${SECRETS[kind]}${channel?.hasSecret ? ', kept; fill in to change' : ''}`}
      class="w-44"
      name="password"
      type="password"
      autocomplete="new-password"
    />
    {#if channel?.hasSecret}<Checkbox label="Remove the secret" name="noSecret" />{/if}
  {/if}
  <Button look="strong">{channel === null ? 'Add channel' : 'Save'}</Button>
</Form>
