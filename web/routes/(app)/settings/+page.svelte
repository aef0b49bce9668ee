<script lang="ts">
  import { enhance } from '$lib/client/forms'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  const ROLES = {
    see: 'see',
    operate: 'operate: take alerts, check now',
    administer: 'administer everything',
  } as const
  const sentence = $derived(
    `${data.people.length} ${data.people.length === 1 ? 'person' : 'people'} may sign in.`,
  )
</script>

<svelte:head><title>Settings · {data.shell.site.name}</title></svelte:head>

<SettingsTabs />
<h1>{sentence}</h1>

<div class="grid grid-cols-2 items-start gap-4">
  <section class="panel" aria-labelledby="people">
    <h2 class="panel-title" id="people">People</h2>
    {#if form?.about === 'people' && form.message}<p class="text-crit mb-2" role="alert">
        {form.message}
      </p>{/if}
    <table class="ledger">
      <thead><tr><th>Name</th><th>Mail address</th><th>May</th></tr></thead>
      <tbody>
        {#each data.people as each (each.id)}
          <tr>
            <td class="font-[640]">{each.name}</td>
            <td class="muted">{each.email}</td>
            <td>
              <form method="POST" action="?/changeRole" use:enhance class="flex gap-2">
                <input type="hidden" name="id" value={each.id} />
                <select class="field" name="role" aria-label="What {each.name} may do" value={each.role}>
                  {#each Object.keys(ROLES) as role (role)}<option value={role}>{role}</option>{/each}
                </select>
                <button class="btn">Change</button>
              </form>
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    <form
      method="POST"
      action="?/addPerson"
      use:enhance
      class="border-rule-2 mt-3 grid grid-cols-2 gap-2 border-t pt-3"
    >
      <label class="grid gap-0.5">Name <input class="field" name="name" required maxlength="64" /></label>
      <label class="grid gap-0.5"
        >Mail address <input class="field" name="email" type="email" required /></label
      >
      <label class="grid gap-0.5"
        >Password <input
          class="field"
          name="password"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
        /></label
      >
      <label class="grid gap-0.5">
        May
        <select class="field" name="role">
          {#each Object.entries(ROLES) as [role, label] (role)}<option value={role}>{label}</option>{/each}
        </select>
      </label>
      <button class="btn justify-self-start">Let in</button>
    </form>
  </section>

  <section class="panel" aria-labelledby="told">
    <h2 class="panel-title" id="told">Who is told</h2>
    <p>
      Who is told of alerts, by mail, text message or hook, and who is on duty, is set up under
      <a class="link" href="/alerts/callouts">Call-outs</a>. Whoever is told needs no account here.
    </p>
  </section>
</div>
