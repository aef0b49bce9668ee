<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import { formatAgo } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import OneTimeSecret from '$lib/components/accounts/OneTimeSecret.svelte'
  import SecondFactor from '$lib/components/accounts/SecondFactor.svelte'
  import TokenForm from '$lib/components/accounts/TokenForm.svelte'
  import TokenList from '$lib/components/accounts/TokenList.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const own = $derived(data.account)
  const others = $derived(data.sessions.filter(({ isThis }) => !isThis).length)
  const sentence = $derived(
    `You are ${own.name}, and may ${own.role}; you sign in ${
      own.directory !== null
        ? 'by the directory'
        : own.hasSecondFactor
          ? 'with a password and a code'
          : 'with a password alone'
    }${others === 0 ? '' : `, and are signed in at ${others} other ${others === 1 ? 'place' : 'places'}`}.`,
  )
  const messageOf = (about: string): string | null =>
    form !== null && 'about' in form && form.about === about ? (form.message ?? null) : null
  const doneOf = (about: string): string | null =>
    form !== null && 'about' in form && form.about === about && 'done' in form ? (form.done as string) : null
</script>

<svelte:head><title>Your account · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>

{#snippet outcome(about: string)}
  {#if messageOf(about) !== null}<p class="text-crit mb-2" role="alert">{messageOf(about)}</p>{/if}
  {#if doneOf(about) !== null}<p class="mb-2" role="status">{doneOf(about)}</p>{/if}
{/snippet}

<div class="grid grid-cols-2 items-start gap-4">
  <div class="grid gap-4">
    <Panel title="Name" id="name">
      {@render outcome('name')}
      <Form action="?/rename" class="flex items-end gap-2">
        <Input label="Name" class="w-64" name="name" required maxlength="64" defaultValue={own.name} />
        <Button>Save</Button>
      </Form>
      <p class="text-ink-2 mt-2 text-xs">
        You sign in as {own.email}; an administrator can give you another right.
      </p>
    </Panel>

    <Panel title="Temperatures" note="on pages and in fields; messages and files keep °C" id="temperatures">
      {@render outcome('temperatures')}
      <Form action="?/temperatures" class="flex items-end gap-2">
        <Select
          label="Scale"
          class="w-40"
          name="temperatures"
          options={[
            { value: 'celsius', label: '°C (Celsius)' },
            { value: 'fahrenheit', label: '°F (Fahrenheit)' },
          ]}
          defaultValue={own.temperatures}
        />
        <Button>Save</Button>
      </Form>
    </Panel>

    {#if own.directory === null}
      <Panel title="Password" id="password">
        {@render outcome('password')}
        <Form action="?/password" class="flex flex-wrap items-end gap-2">
          <Input
            label="Current password"
            class="w-44"
            name="current"
            type="password"
            autocomplete="current-password"
            required
          />
          <Input
            label="New password (at least 10 characters)"
            class="w-56"
            name="password"
            type="password"
            autocomplete="new-password"
            minlength={10}
            required
          />
          <Button>Save</Button>
        </Form>
      </Panel>

      <SecondFactor isOn={own.hasSecondFactor} {form} />
    {/if}
  </div>

  <div class="grid gap-4">
    <Panel title="Sessions" id="sessions">
      {@render outcome('sessions')}
      <Table>
        <thead
          ><tr><th>Browser</th><th>From</th><th>Last active</th><th><span class="sr-only">Do</span></th></tr
          ></thead
        >
        <tbody>
          {#each data.sessions as session (session.id)}
            <tr data-testid="own-session">
              <td class={session.isThis ? 'font-[640]' : ''}
                >{session.browser}{session.isThis ? ' (this one)' : ''}</td
              >
              <td class="font-mono text-[11px]">{session.address ?? ''}</td>
              <td class="text-ink-2 text-xs">{formatAgo(session.lastMs, live.nowMs)}</td>
              <td class="text-right">
                {#if !session.isThis}
                  <Form action="?/endSession">
                    <input type="hidden" name="id" value={session.id} />
                    <Button>Sign out</Button>
                  </Form>
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </Table>
      {#if others > 1}
        <Form action="?/endOthers" class="mt-2">
          <Button>Sign out everywhere else</Button>
        </Form>
      {/if}
    </Panel>

    <Panel title="Your tokens" note="by which a program of yours reads what you may see" id="tokens">
      {@render outcome('tokens')}
      {#if form !== null && 'token' in form && typeof form.token === 'string'}
        <OneTimeSecret
          value={form.token}
          what="This is the token. It is kept as a hash and not shown again."
        />
      {/if}
      <TokenList tokens={data.tokens} />
      <TokenForm most={own.role} />
    </Panel>
  </div>
</div>
