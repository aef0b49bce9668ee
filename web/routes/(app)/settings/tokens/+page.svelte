<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import { useLive } from '$lib/client/live.svelte'
  import OneTimeSecret from '$lib/components/accounts/OneTimeSecret.svelte'
  import TokenForm from '$lib/components/accounts/TokenForm.svelte'
  import TokenList from '$lib/components/accounts/TokenList.svelte'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const SOON_MS = 14 * 86_400_000
  const soon = $derived(data.tokens.filter(({ endsMs }) => endsMs - live.nowMs < SOON_MS))
  const sentence = $derived(
    data.tokens.length === 0
      ? 'No program may ask anything by a token yet.'
      : `${data.tokens.length} ${data.tokens.length === 1 ? 'token lets a program' : 'tokens let programs'} ask; ${
          soon.length === 0
            ? 'none ends within two weeks'
            : `${soon.map(({ name }) => name).join(', ')} ${soon.length === 1 ? 'ends' : 'end'} within two weeks`
        }.`,
  )
</script>

<svelte:head><title>Tokens · {data.shell.site.name}</title></svelte:head>

<SettingsTabs />
<h1>{sentence}</h1>
{#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
{#if form !== null && 'token' in form && typeof form.token === 'string'}
  <OneTimeSecret value={form.token} what="This is the token. It is kept as a hash and not shown again." />
{/if}

<Panel title="Tokens" note="sent as Authorization: Bearer, they read what their role may see" id="tokens">
  <TokenList tokens={data.tokens} />
  <TokenForm most="administer" of="machine" />
</Panel>
<p class="text-ink-2 text-xs">People make tokens of their own under <Link href="/own">Your account</Link>.</p>
