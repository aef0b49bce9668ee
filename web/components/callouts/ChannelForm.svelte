<script lang="ts">
  import { untrack } from 'svelte'
  import { type ChannelKind, CHANNEL_WORDS } from '#core/callouts'
  import { enhance } from '$lib/client/forms'

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
<form
  method="POST"
  action="?/keep"
  use:enhance={() =>
    ({ update }) =>
      update({ reset: channel === null })}
  class="flex flex-wrap items-end gap-2.5"
>
  <input type="hidden" name="id" value={channel?.id ?? ''} />
  {#if channel === null}
    <label class="muted grid gap-0.5"
      >Kind <select class="field" name="kind" bind:value={kind}>
        {#each Object.entries(CHANNEL_WORDS) as [key, word] (key)}<option value={key}>{word}</option>{/each}
      </select></label
    >
  {:else}<input type="hidden" name="kind" value={channel.kind} />{/if}
  <label class="muted grid gap-0.5"
    >Name <input class="field w-44" name="name" required maxlength="60" value={channel?.name ?? ''} /></label
  >
  {#if kind === 'mail'}
    <label class="muted grid gap-0.5"
      >Mail server <input class="field w-44" name="host" required value={of('host')} /></label
    >
    <label class="muted grid gap-0.5"
      >Port <input
        class="field w-20"
        name="port"
        required
        inputmode="numeric"
        value={of('port', '587')}
      /></label
    >
    <label class="muted grid gap-0.5"
      >From <input class="field w-52" name="from" type="email" required value={of('from')} /></label
    >
    <label class="muted grid gap-0.5"
      >User, if it asks <input
        class="field w-36"
        name="username"
        autocomplete="off"
        value={of('username')}
      /></label
    >
    <label class="muted grid gap-0.5"
      >Encrypted <select class="field" name="tls" value={of('tls', 'offered')}>
        <option value="offered">when the server offers it; always with a password</option>
        <option value="required">always (STARTTLS)</option>
        <option value="implicit">always, from the start (port 465)</option>
      </select></label
    >
    <label class="muted grid gap-0.5"
      >Certificate of an authority of your own <textarea
        class="field w-72"
        name="authorityPem"
        rows="1"
        placeholder="-----BEGIN CERTIFICATE-----">{of('authorityPem')}</textarea
      ></label
    >
  {:else if kind === 'text'}
    <label class="muted grid gap-0.5"
      >Address of the gateway <input class="field w-80" name="url" required value={of('url')} /></label
    >
    <label class="muted grid gap-0.5"
      >takes <select class="field" name="format" value={of('format', 'json')}>
        <option value="json">JSON</option>
        <option value="form">a form</option>
      </select></label
    >
    <label class="muted grid gap-0.5"
      >number in <input class="field w-24" name="toField" value={of('toField', 'to')} /></label
    >
    <label class="muted grid gap-0.5"
      >text in <input class="field w-24" name="textField" value={of('textField', 'text')} /></label
    >
    <label class="muted grid gap-0.5"
      >id in <input class="field w-24" name="idField" value={of('idField', 'id')} /></label
    >
    <label class="muted grid gap-0.5"
      >User; none for a token <input
        class="field w-36"
        name="username"
        autocomplete="off"
        value={of('username')}
      /></label
    >
  {:else if kind === 'hook'}
    <label class="muted grid gap-0.5"
      >Address <input class="field w-96" name="url" required value={of('url')} /></label
    >
  {:else}
    <label class="muted grid gap-0.5"
      >Sound <select class="field" name="sound" value={of('sound', 'no')}>
        <option value="no">none</option>
        <option value="once">once</option>
        <option value="taken">every half minute until somebody has it</option>
      </select></label
    >
  {/if}
  {#if kind !== 'screen'}
    <label class="muted grid gap-0.5"
      >{SECRETS[kind]}{channel?.hasSecret ? ', kept; fill in to change' : ''}
      <input class="field w-44" name="password" type="password" autocomplete="new-password" /></label
    >
    {#if channel?.hasSecret}<label class="flex items-center gap-1.5 pb-1.5"
        ><input type="checkbox" name="noSecret" /> none from now on</label
      >{/if}
  {/if}
  <button class="btn btn-strong">{channel === null ? 'Add' : 'Keep'}</button>
</form>
