<script lang="ts">
  import { formatAgo } from '#core/units'
  import { enhance } from '$lib/client/forms'
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
    isOff ? 'switched off' : lastMs === null ? 'never here yet' : formatAgo(lastMs, live.nowMs)
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

<div class="grid grid-cols-[minmax(0,1fr)_300px] items-start gap-4">
  <section class="panel" aria-labelledby="people">
    <h2 class="panel-title" id="people">Accounts</h2>
    <table class="ledger">
      <thead
        ><tr
          ><th>Name</th><th>Mail address</th><th>May</th><th>Signs in with</th><th>Was here</th><th
            ><span class="sr-only">Do</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each data.people as each (each.id)}
          <tr data-testid="account-row">
            <td class="font-[640] {each.isOff ? 'text-ink-3 line-through' : ''}">{each.name}</td>
            <td class="muted">{each.email}</td>
            <td>{each.role}</td>
            <td class={each.waits || wayIn(each) === 'password alone' ? 'muted' : ''}>{wayIn(each)}</td>
            <td class="muted whitespace-nowrap">{stateOf(each)}</td>
            <td class="text-right">
              <button
                class="btn"
                aria-expanded={open === each.id}
                aria-label="Change {each.name}"
                onclick={() => (open = open === each.id ? null : each.id)}>Change</button
              >
            </td>
          </tr>
          {#if open === each.id}
            <tr>
              <td colspan="6">
                <div class="flex flex-wrap items-end gap-2 py-1" role="group" aria-label="Change {each.name}">
                  <form method="POST" action="?/role" use:enhance class="flex items-end gap-2">
                    <input type="hidden" name="id" value={each.id} />
                    <label class="grid gap-0.5"
                      >May
                      <select class="field" name="role" value={each.role}>
                        {#each Object.entries(ROLE_WORDS) as [role, words] (role)}<option value={role}
                            >{words}</option
                          >{/each}
                      </select>
                    </label>
                    <button class="btn">Give</button>
                  </form>
                  {#if each.directory === null && !each.isOff}
                    <form method="POST" action="?/link" use:enhance>
                      <input type="hidden" name="id" value={each.id} />
                      <button class="btn"
                        >{each.waits ? 'Make a new invitation' : 'Make a link for a new password'}</button
                      >
                    </form>
                  {/if}
                  {#if each.hasSecondFactor}
                    <form method="POST" action="?/dropFactor" use:enhance>
                      <input type="hidden" name="id" value={each.id} />
                      <button class="btn">Take the second factor away</button>
                    </form>
                  {/if}
                  {#if each.sessions > 0}
                    <form method="POST" action="?/endSessions" use:enhance>
                      <input type="hidden" name="id" value={each.id} />
                      <button class="btn"
                        >{each.id === data.ownId ? 'Sign out everywhere else' : 'Sign out everywhere'} ({each.sessions})</button
                      >
                    </form>
                  {/if}
                  {#if each.id !== data.ownId}
                    <form method="POST" action="?/switch" use:enhance>
                      <input type="hidden" name="id" value={each.id} />
                      <input type="hidden" name="isOn" value={each.isOff ? 'yes' : 'no'} />
                      <button class="btn">Switch {each.isOff ? 'on' : 'off'}</button>
                    </form>
                    <form method="POST" action="?/remove" use:enhance>
                      <input type="hidden" name="id" value={each.id} />
                      <button class="btn" title="What the account has done stays in the record">Delete</button
                      >
                    </form>
                  {/if}
                </div>
              </td>
            </tr>
          {/if}
        {/each}
      </tbody>
    </table>
  </section>

  <section class="panel" aria-labelledby="invite">
    <h2 class="panel-title" id="invite">Invite somebody</h2>
    <form method="POST" action="?/invite" use:enhance class="grid gap-2">
      <label class="grid gap-0.5">Name <input class="field" name="name" required maxlength="64" /></label>
      <label class="grid gap-0.5"
        >Mail address <input class="field" name="email" type="email" required maxlength="254" /></label
      >
      <label class="grid gap-0.5">
        May
        <select class="field" name="role">
          {#each Object.entries(ROLE_WORDS) as [role, words] (role)}<option value={role}>{words}</option
            >{/each}
        </select>
      </label>
      <button class="btn btn-strong justify-self-start">Make an invitation</button>
    </form>
    <p class="muted mt-3">
      Who is told of alerts, and who is on duty, stands under <a class="link" href="/alerts/callouts"
        >Call-outs</a
      >. Whoever is told needs no account.
    </p>
  </section>
</div>
