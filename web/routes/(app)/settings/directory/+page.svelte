<script lang="ts">
  import { enhance } from '$lib/client/forms'
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

<div class="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-4">
  <section class="panel" aria-labelledby="directory">
    <h2 class="panel-title" id="directory">
      Directory <span>OpenID Connect, authorisation code with PKCE</span>
    </h2>
    <form method="POST" action="?/save" use:enhance class="grid grid-cols-2 gap-3">
      <label class="grid gap-0.5"
        >Name, as it stands on the button
        <input class="field" name="name" required maxlength="64" value={kept?.name ?? ''} />
      </label>
      <label class="grid gap-0.5"
        >Issuer
        <input
          class="field"
          name="issuer"
          type="url"
          required
          placeholder="https://login.example.org"
          value={kept?.issuer ?? ''}
        />
      </label>
      <label class="grid gap-0.5"
        >Client id <input class="field" name="clientId" required value={kept?.clientId ?? ''} />
      </label>
      <label class="grid gap-0.5"
        >Client secret
        <input
          class="field"
          name="clientSecret"
          type="password"
          autocomplete="off"
          placeholder={kept === null ? '' : 'as it is kept'}
        />
      </label>
      <label class="grid gap-0.5"
        >Claim that holds the groups
        <input class="field" name="groupsClaim" required value={kept?.groupsClaim ?? 'groups'} />
      </label>
      <label class="flex items-center gap-2 self-end pb-1.5">
        <input type="checkbox" name="isOn" value="yes" checked={kept?.isOn ?? true} /> switched on
      </label>
      <div class="col-span-2 grid grid-cols-3 gap-3">
        {#each GROUPS as [role, words] (role)}
          <label class="grid gap-0.5"
            >Groups that {words}, one a line
            <textarea class="field h-20" name={role} maxlength="2000">{lines(kept?.roles[role])}</textarea>
          </label>
        {/each}
      </div>
      <button class="btn btn-strong justify-self-start">Keep it</button>
    </form>
  </section>

  <section class="panel" aria-labelledby="there">
    <h2 class="panel-title" id="there">What to enter there</h2>
    <p>The issuer sends the browser back to</p>
    <p class="my-1 font-mono text-[12px] break-all">{data.back}</p>
    <p>
      Enter this address with the client, as it stands here. Whoever is in none of the groups is not let in;
      what somebody may is decided anew at each sign-in. An account with the same mail address is taken over.
    </p>
  </section>
</div>
