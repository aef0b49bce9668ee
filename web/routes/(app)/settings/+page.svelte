<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { formatAgo } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import OneTimeSecret from '$lib/components/accounts/OneTimeSecret.svelte'
  import { ROLE_WORDS } from '$lib/components/accounts/roles'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  let open = $state<string | null>(null)

  const on = $derived(data.people.filter(({ isOff, waits }) => !isOff && !waits))
  const bare = $derived(on.filter(({ hasSecondFactor, directory }) => !hasSecondFactor && directory === null))
  const waiting = $derived(data.people.filter(({ waits, isOff }) => waits && !isOff))
  const sentence = $derived.by(() => {
    const may = `${on.length} ${on.length === 1 ? 'person' : 'people'} may sign in`
    const factor =
      bare.length === 0
        ? 'each with a second factor or by the directory'
        : `${bare.length === on.length ? 'none' : `${bare.length} of them not`} with a second factor`
    const yet = waiting.length === 0 ? '' : `; ${waiting.length} invited and not here yet`
    return `${may}, ${factor}${yet}.`
  })
  const wayIn = ({ waits, directory, hasSecondFactor }: (typeof data.people)[number]): string =>
    waits
      ? 'invited'
      : directory !== null
        ? 'directory'
        : hasSecondFactor
          ? 'password and code'
          : 'password alone'
  const stateOf = ({ isOff, lastMs }: (typeof data.people)[number]): string =>
    isOff ? 'switched off' : lastMs === null ? 'never' : formatAgo(lastMs, live.nowMs)
</script>

<svelte:head><title>Accounts · {data.shell.site.name}</title></svelte:head>

<SettingsTabs />
<h1>{sentence}</h1>
{#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
{#if form !== null && 'link' in form && typeof form.link === 'string'}
  <OneTimeSecret
    value={form.link}
    what="This link lets {form.linkFor} choose a password, once, within {form.holds}. Send it to them yourself; it is not shown again."
  />
{/if}

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_300px]">
  <Panel title="Accounts" id="people">
    <Table>
      <thead
        ><tr
          ><th>Name</th><th>Mail address</th><th>Role</th><th>Signs in with</th><th>Last active</th><th
            ><span class="sr-only">Do</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each data.people as each (each.id)}
          <tr data-testid="account-row">
            <td class="font-[640] {each.isOff ? 'text-ink-3 line-through' : ''}">{each.name}</td>
            <td class="text-ink-2 text-xs">{each.email}</td>
            <td>{each.role}</td>
            <td class={each.waits || wayIn(each) === 'password alone' ? 'text-ink-2 text-xs' : ''}
              >{wayIn(each)}</td
            >
            <td class="text-ink-2 text-xs whitespace-nowrap">{stateOf(each)}</td>
            <td class="text-right">
              <Button
                aria-expanded={open === each.id}
                aria-label="Edit {each.name}"
                onclick={() => (open = open === each.id ? null : each.id)}>Edit</Button
              >
            </td>
          </tr>
          {#if open === each.id}
            <tr>
              <td colspan="6">
                <div class="flex flex-wrap items-end gap-2 py-1" role="group" aria-label="Edit {each.name}">
                  <Form action="?/role" class="flex items-end gap-2">
                    <input type="hidden" name="id" value={each.id} />
                    <Select
                      label="Role"
                      name="role"
                      defaultValue={each.role}
                      options={Object.entries(ROLE_WORDS).map(([role, words]) => ({
                        value: role,
                        label: words,
                      }))}
                    />
                    <Button>Give</Button>
                  </Form>
                  {#if each.directory === null && !each.isOff}
                    <Form action="?/link">
                      <input type="hidden" name="id" value={each.id} />
                      <Button>{each.waits ? 'Create new invitation' : 'Create password link'}</Button>
                    </Form>
                  {/if}
                  {#if each.hasSecondFactor}
                    <Form action="?/dropFactor">
                      <input type="hidden" name="id" value={each.id} />
                      <Button>Remove second factor</Button>
                    </Form>
                  {/if}
                  {#if each.sessions > 0}
                    <Form action="?/endSessions">
                      <input type="hidden" name="id" value={each.id} />
                      <Button
                        >{each.id === data.ownId ? 'Sign out everywhere else' : 'Sign out everywhere'} ({each.sessions})</Button
                      >
                    </Form>
                  {/if}
                  {#if each.id !== data.ownId}
                    <Form action="?/switch">
                      <input type="hidden" name="id" value={each.id} />
                      <input type="hidden" name="isOn" value={each.isOff ? 'yes' : 'no'} />
                      <Button>Switch {each.isOff ? 'on' : 'off'}</Button>
                    </Form>
                    <Form action="?/remove">
                      <input type="hidden" name="id" value={each.id} />
                      <Button title="What the account has done stays in the record">Delete</Button>
                    </Form>
                  {/if}
                </div>
              </td>
            </tr>
          {/if}
        {/each}
      </tbody>
    </Table>
  </Panel>

  <Panel title="Invite person" id="invite">
    <Form action="?/invite" class="grid gap-2">
      <Input label="Name" name="name" required maxlength="64" />
      <Input label="Mail address" name="email" type="email" required maxlength="254" />
      <Select
        label="Role"
        name="role"
        options={Object.entries(ROLE_WORDS).map(([role, words]) => ({ value: role, label: words }))}
      />
      <Button look="strong" class="justify-self-start">Create invitation</Button>
    </Form>
    <p class="text-ink-2 mt-3 text-xs">
      Who is notified of alerts, and who is on duty, is set under <Link href="/alerts/callouts"
        >Call-outs</Link
      >. People who are notified need no account.
    </p>
  </Panel>
</div>
