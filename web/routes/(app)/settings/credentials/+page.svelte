<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import SecretFields from '$lib/components/sources/SecretFields.svelte'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  const KINDS = {
    basic: {
      label: 'User and password',
      right: 'a user that may log in and read (in Redfish the role ReadOnly)',
    },
    bearer: {
      label: 'Bearer token',
      right: 'a token that may read metrics',
    },
    'snmp-v2c': {
      label: 'SNMP community',
      right: 'a community that may read; it goes over the wire in the open',
    },
    'snmp-v3': { label: 'SNMP v3 user', right: 'a user that may read 1.3.6.1.2.1, signed and encrypted' },
  } as const
  let newKind = $state<keyof typeof KINDS>('basic')
  let open = $state<number | null>(null)
  const MOST_NAMED = 6

  const unused = $derived(data.credentials.filter((each) => each.sources.length === 0))
  const sentence = $derived.by(() => {
    const count = data.credentials.length
    if (count === 0) return 'No credential is kept yet. One is kept with the first source that needs it.'
    const kept = `${count} credential${count === 1 ? ' is' : 's are'} kept, sealed with a key outside the database.`
    if (unused.length === 0) return kept
    return `${kept} ${unused.map((each) => each.name).join(', ')} ${unused.length === 1 ? 'is' : 'are'} used by nothing.`
  })
</script>

<svelte:head><title>Credentials · {data.shell.site.name}</title></svelte:head>

{#snippet destinations(kind: keyof typeof KINDS, hosts: readonly string[], inClear: string | null)}
  <Input
    label="Allowed hosts and networks"
    class="font-mono text-[12px]"
    name="hosts"
    required
    maxlength="8000"
    placeholder="192.0.2.0/24 petrel-07.example"
    defaultValue={hosts.join(' ')}
  />
  {#if kind === 'basic' || kind === 'bearer'}
    <Input
      label="Reason to allow it without TLS"
      name="inClear"
      maxlength="200"
      placeholder="with TLS only"
      defaultValue={inClear ?? ''}
    />
  {/if}
{/snippet}

<SettingsTabs />
<h1>{sentence}</h1>
{#if form?.done}<p role="status">{form.done}</p>{/if}
{#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_330px]">
  <Panel title="Kept" note="what is entered is never shown again" id="kept">
    <Table>
      <thead
        ><tr
          ><th>Name</th><th>What it is</th><th>May go to</th><th>Used by</th><th
            ><span class="sr-only">Do</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each data.credentials as each (each.id)}
          <tr data-testid="credential-row">
            <td class="font-[640]">{each.name}</td>
            <td class="text-ink-2 text-xs">{KINDS[each.kind].label}</td>
            <td class="font-mono text-[11px]">
              {#if each.hosts.length === 0}
                <span class="text-warn font-[620]">nowhere yet</span>
              {:else}
                <span title={each.hosts.join(' ')}
                  >{each.hosts.slice(0, 2).join(', ')}{each.hosts.length > 2
                    ? ` and ${each.hosts.length - 2} more`
                    : ''}</span
                >
              {/if}
              {#if each.inClear !== null}
                <span class="text-warn block" title={each.inClear}>also without TLS</span>
              {/if}
            </td>
            <td>
              {#each each.sources.slice(0, MOST_NAMED) as source, index (source.id)}{index > 0
                  ? ', '
                  : ''}<Link href="/sources/{source.id}">{source.name}</Link>{:else}<span
                  class="text-ink-2 text-xs">nothing</span
                >{/each}{#if each.sources.length > MOST_NAMED}<span
                  class="text-ink-2 text-xs"
                  title={each.sources.map(({ name }) => name).join(', ')}
                >
                  {` and ${each.sources.length - MOST_NAMED} more`}</span
                >{/if}
            </td>
            <td class="text-right whitespace-nowrap">
              <Button
                aria-expanded={open === each.id}
                onclick={() => (open = open === each.id ? null : each.id)}>Edit</Button
              >
            </td>
          </tr>
          {#if open === each.id}
            <tr>
              <td colspan="5">
                <Form
                  action="?/keep"
                  class="grid grid-cols-3 items-end gap-2"
                  submit={() =>
                    async ({ update, result }) => {
                      await update()
                      if (result.type === 'success') open = null
                    }}
                >
                  <input type="hidden" name="id" value={each.id} />
                  <input type="hidden" name="kind" value={each.kind} />
                  <Input label="Name" name="name" required maxlength="64" defaultValue={each.name} />
                  {@render destinations(each.kind, each.hosts, each.inClear)}
                  <SecretFields kind={each.kind} isKept={false} />
                  <p class="text-ink-2 col-span-3 text-xs">
                    Leave the secret empty to keep it as it is. Enough is {KINDS[each.kind].right}.
                  </p>
                  <Button look="strong" class="justify-self-start">Save</Button>
                </Form>
                {#if each.sources.length === 0}
                  <Form action="?/remove" class="mt-2">
                    <input type="hidden" name="id" value={each.id} />
                    <Button class="text-ink-2">Remove</Button>
                  </Form>
                {/if}
              </td>
            </tr>
          {/if}
        {:else}
          <tr><td colspan="5" class="text-ink-2 text-xs">Nothing is kept yet.</td></tr>
        {/each}
      </tbody>
    </Table>
  </Panel>
  <Panel title="Add credential" id="new">
    <Form action="?/keep" class="grid gap-2">
      <input type="hidden" name="id" value="" />
      <Select
        label="What it is"
        name="kind"
        bind:value={newKind}
        options={Object.entries(KINDS).map(([kind, { label }]) => ({ value: kind, label: label }))}
      />
      <Input label="Name" name="name" required maxlength="64" />
      <SecretFields kind={newKind} isKept={false} />
      {@render destinations(newKind, [], null)}
      <p class="text-ink-2 text-xs">Enough is {KINDS[newKind].right}.</p>
      <Button look="strong" class="justify-self-start">Save</Button>
    </Form>
  </Panel>
</div>
