<script lang="ts">
  import { formatAgo } from '#core/units'
  import { enhance } from '$lib/client/forms'
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
    <section class="panel" aria-labelledby="name">
      <h2 class="panel-title" id="name">Name</h2>
      {@render outcome('name')}
      <form method="POST" action="?/rename" use:enhance class="flex items-end gap-2">
        <label class="grid gap-0.5"
          >As it stands beside what you do
          <input class="field w-64" name="name" required maxlength="64" value={own.name} />
        </label>
        <button class="btn">Change</button>
      </form>
      <p class="muted mt-2">You sign in as {own.email}; an administrator can give you another right.</p>
    </section>

    {#if own.directory === null}
      <section class="panel" aria-labelledby="password">
        <h2 class="panel-title" id="password">Password</h2>
        {@render outcome('password')}
        <form method="POST" action="?/password" use:enhance class="flex flex-wrap items-end gap-2">
          <label class="grid gap-0.5"
            >Present one
            <input
              class="field w-44"
              name="current"
              type="password"
              autocomplete="current-password"
              required
            />
          </label>
          <label class="grid gap-0.5"
            >New one, ten characters at least
            <input
              class="field w-56"
              name="password"
              type="password"
              autocomplete="new-password"
              minlength="10"
              required
            />
          </label>
          <button class="btn">Change</button>
        </form>
      </section>

      <SecondFactor isOn={own.hasSecondFactor} {form} />
    {/if}
  </div>

  <div class="grid gap-4">
    <section class="panel" aria-labelledby="sessions">
      <h2 class="panel-title" id="sessions">Where you are signed in</h2>
      {@render outcome('sessions')}
      <table class="ledger">
        <thead
          ><tr><th>Browser</th><th>From</th><th>Last asked</th><th><span class="sr-only">Do</span></th></tr
          ></thead
        >
        <tbody>
          {#each data.sessions as session (session.id)}
            <tr data-testid="own-session">
              <td class={session.isThis ? 'font-[640]' : ''}
                >{session.browser}{session.isThis ? ' (this one)' : ''}</td
              >
              <td class="font-mono text-[11px]">{session.address ?? ''}</td>
              <td class="muted">{formatAgo(session.lastMs, live.nowMs)}</td>
              <td class="text-right">
                {#if !session.isThis}
                  <form method="POST" action="?/endSession" use:enhance>
                    <input type="hidden" name="id" value={session.id} />
                    <button class="btn">End</button>
                  </form>
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if others > 1}
        <form method="POST" action="?/endOthers" use:enhance class="mt-2">
          <button class="btn">Sign out everywhere else</button>
        </form>
      {/if}
    </section>

    <section class="panel" aria-labelledby="tokens">
      <h2 class="panel-title" id="tokens">
        Your tokens <span>by which a program of yours reads what you may see</span>
      </h2>
      {@render outcome('tokens')}
      {#if form !== null && 'token' in form && typeof form.token === 'string'}
        <OneTimeSecret
          value={form.token}
          what="This is the token. It is kept as a hash and not shown again."
        />
      {/if}
      <TokenList tokens={data.tokens} />
      <TokenForm most={own.role} />
    </section>
  </div>
</div>
