<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import TextArea from '$lib/components/ui/TextArea.svelte'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const kept = $derived(data.directory)
  const sentence = $derived(
    kept === null
      ? 'Everybody signs in with an account that is kept here; no directory is set.'
      : kept.isOn
        ? `People of ${kept.name} sign in with it; its groups say what they may.`
        : `${kept.name} is set and switched off.`,
  )
  const lines = (groups: readonly string[] | undefined): string => (groups ?? []).join('\n')
  const GROUPS = [
    ['see', 'may see'],
    ['operate', 'may operate'],
    ['administer', 'may administer'],
  ] as const
</script>

<svelte:head><title>Directory · {data.shell.site.name}</title></svelte:head>

<SettingsTabs />
<h1>{sentence}</h1>
{#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
{#if form !== null && 'done' in form}<p role="status">{form.done}</p>{/if}

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_330px]">
  <Panel title="Directory" note="OpenID Connect, authorisation code with PKCE" id="directory">
    <Form action="?/save" class="grid grid-cols-2 gap-3">
      <Input
        label="Name, as it stands on the button"
        name="name"
        required
        maxlength="64"
        defaultValue={kept?.name ?? ''}
      />
      <Input
        label="Issuer"
        name="issuer"
        type="url"
        required
        placeholder="https://login.example.org"
        defaultValue={kept?.issuer ?? ''}
      />
      <Input label="Client id" name="clientId" required defaultValue={kept?.clientId ?? ''} />
      <Input
        label="Client secret"
        name="clientSecret"
        type="password"
        autocomplete="off"
        placeholder={kept === null ? '' : 'as it is kept'}
      />
      <Input
        label="Claim that holds the groups"
        name="groupsClaim"
        required
        defaultValue={kept?.groupsClaim ?? 'groups'}
      />
      <Checkbox label="Enabled" name="isOn" value="yes" defaultChecked={kept?.isOn ?? true} />
      <div class="col-span-2 grid grid-cols-3 gap-3">
        {#each GROUPS as [role, words] (role)}
          <TextArea
            label={`Groups that ${words}, one a line`}
            class="h-20"
            name={role}
            maxlength="2000"
            defaultValue={lines(kept?.roles[role])}
          />
        {/each}
      </div>
      <Button look="strong" class="justify-self-start">Save</Button>
    </Form>
  </Panel>

  <Panel title="Settings for the sender" id="there">
    <p>The issuer sends the browser back to</p>
    <p class="my-1 font-mono text-[12px] break-all">{data.back}</p>
    <p>
      Enter this address with the client, as it stands here. Whoever is in none of the groups is not let in;
      what somebody may is decided anew at each sign-in. An account with the same mail address is taken over.
    </p>
  </Panel>
</div>
