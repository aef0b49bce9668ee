<script lang="ts">
  import { untrack } from 'svelte'
  import { enhance } from '$lib/client/forms'
  import Fold from '../ui/Fold.svelte'
  import SecretFields from './SecretFields.svelte'

  interface Before {
    readonly id: string
    readonly protocol: string
    readonly address: string
    readonly settings: Readonly<Record<string, unknown>>
    readonly credentialId: number | null
    readonly hasOwnSecret: boolean
  }
  /** What to connect: address, how it is spoken to, and as whom. Filled in with what was checked before. */
  let {
    credentials,
    mappings,
    before,
    isBusy,
  }: {
    credentials: readonly { readonly id: number; readonly name: string; readonly kind: string }[]
    mappings: readonly { readonly id: number; readonly name: string; readonly protocol: string }[]
    before: Before | null
    isBusy: boolean
  } = $props()

  const text = (name: string): string => {
    const value = before?.settings[name]
    return typeof value === 'string' ? value : ''
  }
  let protocol = $state(untrack(() => before?.protocol ?? 'redfish'))
  let version = $state(untrack(() => text('version') || 'v3'))
  let credential = $state(untrack(() => (before?.credentialId == null ? '' : String(before.credentialId))))
  let access = $state(untrack(() => text('access') || 'none'))
  const own = untrack(() => before?.settings ?? {})
  let mapping = $state(untrack(() => (typeof own['mapId'] === 'number' ? String(own['mapId']) : '')))
  const look = untrack(
    () => own['look'] as { table: string; address: number; count: number } | null | undefined,
  )
  const kind = $derived.by(() => {
    if (protocol === 'redfish') return 'basic' as const
    if (protocol === 'snmp') return version === 'v3' ? ('snmp-v3' as const) : ('snmp-v2c' as const)
    return protocol === 'openmetrics' && (access === 'basic' || access === 'bearer') ? access : null
  })
  const fitting = $derived(credentials.filter((each) => each.kind === kind))
  const isSame = $derived(before?.protocol === protocol)
  const isKept = $derived(
    before?.hasOwnSecret === true &&
      isSame &&
      (protocol !== 'snmp' || (text('version') === 'v3') === (version === 'v3')) &&
      (protocol !== 'openmetrics' || text('access') === access),
  )
  const fittingMappings = $derived(mappings.filter((each) => each.protocol === protocol))
  const PLACEHOLDERS: Record<string, string> = {
    redfish: 'https://192.0.2.10',
    snmp: '192.0.2.20:161',
    openmetrics: 'https://192.0.2.25:9100/metrics',
    modbus: '192.0.2.40:502',
    reach: 'icmp://192.0.2.30, tcp://192.0.2.30:22, https://pier.example/',
  }
  const RIGHTS = {
    basic: 'A user that may log in and read is enough (in Redfish the role ReadOnly).',
    bearer: 'A token that may read metrics is enough.',
    'snmp-v2c': 'A read-only community is enough; it goes over the wire in the open.',
    'snmp-v3': 'A user that may read 1.3.6.1.2.1, with authentication and privacy, is enough.',
  } as const
</script>

<form method="POST" action="?/check" use:enhance class="grid gap-2.5" data-testid="address-form">
  <input type="hidden" name="before" value={isKept && before !== null ? before.id : ''} />
  <input
    type="hidden"
    name="drafted"
    value={isSame && before !== null && before.id !== '' ? before.id : ''}
  />
  <label class="grid gap-0.5">
    What it speaks
    <select class="field" name="protocol" bind:value={protocol}>
      <option value="redfish">Redfish: a server's or a chassis's controller</option>
      <option value="reach">ICMP, TCP or HTTP(S): whether something is reached</option>
      <option value="snmp">SNMP: a UPS, a host, a switch, sensors</option>
      <option value="openmetrics">OpenMetrics: metrics as text, scraped</option>
      <option value="modbus">Modbus TCP: cooling units, meters, contacts</option>
    </select>
  </label>
  <label class="grid gap-0.5">
    Address
    <input
      class="field"
      name="address"
      required
      autocomplete="off"
      value={before?.protocol === protocol ? before.address : ''}
      placeholder={PLACEHOLDERS[protocol]}
    />
  </label>
  {#if protocol === 'snmp'}
    <label class="grid gap-0.5">
      Version
      <select class="field" name="version" bind:value={version}>
        <option value="v3">v3: a user, signed and encrypted</option>
        <option value="v2c">v2c: a community</option>
        <option value="v1">v1: a community, for gear of old</option>
      </select>
    </label>
    {#if version === 'v3'}
      <div class="grid grid-cols-2 gap-2">
        <label class="grid gap-0.5">
          Authentication
          <select class="field" name="authentication" value={text('authentication') || 'sha256'}>
            <option value="sha">SHA-1</option>
            <option value="sha224">SHA-224</option>
            <option value="sha256">SHA-256</option>
            <option value="sha384">SHA-384</option>
            <option value="sha512">SHA-512</option>
          </select>
        </label>
        <label class="grid gap-0.5">
          Privacy
          <select class="field" name="privacy" value={text('privacy') || 'aes'}>
            <option value="aes">AES-128</option>
            <option value="aes256b">AES-256</option>
            <option value="aes256r">AES-256, other key extension</option>
          </select>
        </label>
      </div>
    {/if}
  {/if}
  {#if protocol === 'openmetrics'}
    <label class="grid gap-0.5">
      It lets in
      <select class="field" name="access" bind:value={access}>
        <option value="none">whoever asks</option>
        <option value="bearer">with a bearer token</option>
        <option value="basic">with user and password</option>
      </select>
    </label>
  {/if}
  {#if protocol === 'modbus'}
    <div class="grid grid-cols-[1fr_90px] gap-2">
      <label class="grid gap-0.5"
        >What it is called <input
          class="field"
          name="gearName"
          maxlength="64"
          placeholder="its address"
          value={text('name')}
        /></label
      >
      <label class="grid gap-0.5"
        >Unit <input
          class="field"
          name="modbusUnit"
          inputmode="numeric"
          value={String(own['unit'] ?? 1)}
        /></label
      >
    </div>
  {/if}
  {#if protocol === 'modbus' || protocol === 'openmetrics'}
    <label class="grid gap-0.5">
      {protocol === 'modbus' ? 'Register map' : 'Mapping'}
      <select class="field" name="mapping" bind:value={mapping}>
        <option value=""
          >{isSame && own['map'] !== undefined ? 'as it is written here' : 'none yet: look first'}</option
        >
        {#each fittingMappings as each (each.id)}<option value={String(each.id)}>{each.name}</option>{/each}
      </select>
    </label>
  {/if}
  {#if protocol === 'modbus'}
    <Fold titleClass="muted" opens={look != null || mapping === ''}>
      {#snippet title()}Registers to look at, to write a map by{/snippet}
      <div class="mt-1 grid grid-cols-3 gap-2">
        <label class="grid gap-0.5"
          >Table <select
            class="field"
            name="lookTable"
            value={look?.table ?? (mapping === '' ? 'holding' : '')}
          >
            <option value="">none</option>
            <option>holding</option>
            <option>input</option>
            <option>coil</option>
            <option>discrete</option>
          </select></label
        >
        <label class="grid gap-0.5"
          >From <input
            class="field"
            name="lookAddress"
            inputmode="numeric"
            value={look?.address ?? 0}
          /></label
        >
        <label class="grid gap-0.5"
          >Count <input class="field" name="lookCount" inputmode="numeric" value={look?.count ?? 16} /></label
        >
      </div>
    </Fold>
  {/if}
  {#if kind !== null}
    <label class="grid gap-0.5">
      Credential
      <select class="field" name="credential" bind:value={credential}>
        <option value="">a new one, entered here</option>
        {#each fitting as each (each.id)}<option value={String(each.id)}>{each.name}</option>{/each}
      </select>
    </label>
    {#if credential === ''}<SecretFields {kind} {isKept} />{/if}
    <p class="muted">{RIGHTS[kind]} It is sealed, and never shown again.</p>
  {/if}
  {#if protocol !== 'snmp' && protocol !== 'modbus'}
    <Fold titleClass="muted" opens={text('authorityPem') !== '' || text('fingerprint') !== ''}>
      {#snippet title()}Its certificate, if you know it already{/snippet}
      <label class="mt-1 grid gap-0.5">
        Authority, as PEM
        <textarea
          class="field font-mono text-[11px]"
          name="authorityPem"
          rows="3"
          value={text('authorityPem')}></textarea>
      </label>
      <label class="mt-1 grid gap-0.5">
        Fingerprint, SHA-256
        <input class="field font-mono text-[11px]" name="fingerprint" value={text('fingerprint')} />
      </label>
    </Fold>
  {/if}
  <button class="btn btn-strong justify-self-start" disabled={isBusy}>
    {before === null || before.id === '' ? 'Check' : 'Check again'}
  </button>
</form>
