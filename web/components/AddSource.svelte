<script lang="ts">
  import { enhance } from '$app/forms'

  let {
    credentials,
    receiverPort,
    outcome,
  }: {
    credentials: readonly { readonly id: number; readonly name: string; readonly kind: string }[]
    receiverPort: number
    outcome: {
      readonly message: string | null
      readonly token: string | null
      readonly name: string | null
    } | null
  } = $props()

  let protocol = $state('redfish')
  let version = $state('v3')
  let credential = $state('')
  const fitting = $derived(
    credentials.filter((each) =>
      protocol === 'redfish' ? each.kind === 'basic' : each.kind === `snmp-${version}`,
    ),
  )
</script>

<form method="POST" action="?/add" use:enhance class="grid grid-cols-2 gap-2">
  {#if outcome?.message}<p class="text-crit col-span-2" role="alert">{outcome.message}</p>{/if}
  {#if outcome?.token}
    <p class="col-span-2" role="status">
      {outcome.name} pushes to
      <code class="font-mono text-[11px]">http://127.0.0.1:{receiverPort}/v1/metrics</code>
      with this bearer token. It is shown only now:
      <code class="bg-accent-soft font-mono text-[11px] break-all">{outcome.token}</code>
    </p>
  {/if}
  <label class="col-span-2 grid gap-0.5">
    What it speaks
    <select class="field" name="protocol" bind:value={protocol}>
      <option value="redfish">Redfish: a server's management controller</option>
      <option value="snmp">SNMP: a UPS, a host, a switch, sensors</option>
      <option value="otlp">OTLP: a hypervisor host that pushes</option>
    </select>
  </label>
  <label class="grid gap-0.5">Name <input class="field" name="name" required maxlength="64" /></label>
  <label class="grid gap-0.5"
    >Interval, s <input class="field" name="intervalSeconds" inputmode="numeric" value="60" required /></label
  >
  {#if protocol !== 'otlp'}
    <label class="col-span-2 grid gap-0.5">
      Address
      <input
        class="field"
        name="address"
        required
        placeholder={protocol === 'redfish' ? 'https://192.0.2.10' : '192.0.2.20:161'}
      />
    </label>
    {#if protocol === 'snmp'}
      <label class="col-span-2 grid gap-0.5">
        Version
        <select class="field" name="version" bind:value={version}>
          <option value="v3">v3, with user, SHA-256 and AES</option>
          <option value="v2c">v2c, with a community</option>
        </select>
      </label>
    {/if}
    <label class="col-span-2 grid gap-0.5">
      Credential
      <select class="field" name="credential" bind:value={credential}>
        <option value="">a new one</option>
        {#each fitting as each (each.id)}<option value={String(each.id)}>{each.name}</option>{/each}
      </select>
    </label>
    {#if credential === ''}
      {#if protocol === 'redfish'}
        <label class="grid gap-0.5">User <input class="field" name="username" autocomplete="off" /></label>
        <label class="grid gap-0.5"
          >Password <input class="field" name="password" type="password" autocomplete="new-password" /></label
        >
      {:else if version === 'v2c'}
        <label class="col-span-2 grid gap-0.5"
          >Community <input
            class="field"
            name="community"
            type="password"
            autocomplete="new-password"
          /></label
        >
      {:else}
        <label class="col-span-2 grid gap-0.5"
          >User <input class="field" name="username" autocomplete="off" /></label
        >
        <label class="grid gap-0.5"
          >Password <input
            class="field"
            name="authPassword"
            type="password"
            autocomplete="new-password"
          /></label
        >
        <label class="grid gap-0.5"
          >Privacy password <input
            class="field"
            name="privPassword"
            type="password"
            autocomplete="new-password"
          /></label
        >
      {/if}
    {/if}
    {#if protocol === 'redfish'}
      <label class="col-span-2 grid gap-0.5">
        Its certificate authority, as PEM; leave empty for a public one
        <textarea class="field font-mono text-[11px]" name="authorityPem" rows="3"></textarea>
      </label>
    {/if}
    <!-- Fields of the other choices, so that every shape of the form is whole. -->
    {#each ['username', 'password', 'authorityPem', 'community', 'authPassword', 'privPassword'] as name (name)}
      {#if credential !== '' && name !== 'authorityPem'}<input type="hidden" {name} value="" />{/if}
      {#if credential === '' && protocol === 'snmp' && (version === 'v2c' ? name !== 'community' : name === 'community')}
        <input type="hidden" {name} value="" />
      {/if}
    {/each}
    <p class="sub col-span-2">
      A read-only account is enough. What is entered is sealed, and never shown again.
    </p>
  {:else}
    <p class="sub col-span-2">
      It gets a token of its own. How a sender names its gear stands in docs/otlp.md.
    </p>
  {/if}
  <button class="btn btn-strong justify-self-start">Connect</button>
</form>
