<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import TextArea from '../ui/TextArea.svelte'
  import { untrack } from 'svelte'
  import {
    credentialKind,
    LEAST_RIGHTS,
    type ProtocolDescriptor,
    settingOf,
    type SourceField,
  } from '#core/sources'
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
    protocols,
    credentials,
    mappings,
    before,
    isBusy,
  }: {
    protocols: readonly ProtocolDescriptor[]
    credentials: readonly { readonly id: number; readonly name: string; readonly kind: string }[]
    mappings: readonly { readonly id: number; readonly name: string; readonly protocol: string }[]
    before: Before | null
    isBusy: boolean
  } = $props()

  const own = untrack(() => before?.settings ?? {})
  const text = (name: string): string => {
    const value = own[name]
    return typeof value === 'string' ? value : ''
  }
  let protocol = $state(untrack(() => before?.protocol ?? protocols[0]!.protocol))
  let credential = $state(untrack(() => (before?.credentialId == null ? '' : String(before.credentialId))))
  let mapping = $state(untrack(() => (typeof own['mapId'] === 'number' ? String(own['mapId']) : '')))
  /** What has been chosen or written since, by field. */
  const given = $state<Record<string, string>>({})

  const spoken = $derived(protocols.find((each) => each.protocol === protocol) ?? protocols[0]!)
  const isSame = $derived(before?.protocol === protocol)
  const earlier = (field: SourceField): string => (isSame ? settingOf(own, field) : '')
  const usual = (field: SourceField): string =>
    mapping !== '' && field.mapped !== undefined ? field.mapped : field.value
  const valueOf = (field: SourceField): string => given[field.name] ?? (earlier(field) || usual(field))
  const valueNamed = (name: string): string => {
    const field = spoken.fields.find((each) => each.name === name)
    return field === undefined ? '' : valueOf(field)
  }
  const shown = $derived(
    spoken.fields.filter(({ when }) => when === undefined || valueNamed(when.field) === when.is),
  )
  const kind = $derived(credentialKind(spoken, valueNamed))
  const kindBefore = $derived(before === null ? null : credentialKind(spoken, (name) => text(name)))
  const fitting = $derived(credentials.filter((each) => each.kind === kind))
  const isKept = $derived(before?.hasOwnSecret === true && isSame && kindBefore === kind)
  const fittingMappings = $derived(mappings.filter((each) => each.protocol === protocol))
</script>

{#snippet control(field: SourceField)}
  {#if field.control === 'choice'}
    <Select
      label={field.label}
      name={field.name}
      bind:value={() => valueOf(field), (value) => (given[field.name] = value)}
      options={(field.choices ?? []).map(([value, label]) => ({ value, label }))}
    />
  {:else}
    <Input
      label={field.label}
      name={field.name}
      maxlength="64"
      inputmode={field.control === 'number' ? 'numeric' : undefined}
      placeholder={field.placeholder}
      bind:value={() => valueOf(field), (value) => (given[field.name] = value)}
    />
  {/if}
{/snippet}

<Form action="?/check" class="grid gap-2.5" data-testid="address-form">
  <input type="hidden" name="before" value={isKept && before !== null ? before.id : ''} />
  <input
    type="hidden"
    name="drafted"
    value={isSame && before !== null && before.id !== '' ? before.id : ''}
  />
  <Select
    label="Protocol"
    name="protocol"
    bind:value={protocol}
    options={protocols.map((each) => ({ value: each.protocol, label: each.label }))}
  />
  <Input
    label="Address"
    name="address"
    required
    autocomplete="off"
    defaultValue={isSame ? before!.address : ''}
    placeholder={spoken.addressPlaceholder}
  />
  {#if shown.length > 0}
    <div class="grid grid-cols-2 gap-2">
      {#each shown as field (field.name)}
        <div class={shown.length % 2 === 1 && field === shown[0] ? 'col-span-2' : ''}>
          {@render control(field)}
        </div>
      {/each}
    </div>
  {/if}
  {#if spoken.mapping !== null}
    <Select
      label={spoken.mapping.label}
      name="mapping"
      bind:value={mapping}
      options={[
        {
          value: '',
          label: isSame && own['map'] !== undefined ? 'as it is written here' : 'none yet: look first',
        },
        ...fittingMappings.map((each) => ({ value: String(each.id), label: each.name })),
      ]}
    />
  {/if}
  {#if spoken.look !== null}
    <Fold
      titleClass="text-ink-2 text-xs"
      opens={mapping === '' || spoken.look.fields.some((field) => earlier(field) !== '')}
    >
      {#snippet title()}{spoken.look!.title}{/snippet}
      <div class="mt-1 grid grid-cols-3 gap-2">
        {#each spoken.look.fields as field (field.name)}{@render control(field)}{/each}
      </div>
    </Fold>
  {/if}
  {#if kind !== null}
    <Select
      label="Credential"
      name="credential"
      bind:value={credential}
      options={[
        { value: '', label: 'a new one, entered here' },
        ...fitting.map((each) => ({ value: String(each.id), label: each.name })),
      ]}
    />
    {#if credential === ''}<SecretFields {kind} {isKept} />{/if}
    <p class="text-ink-2 text-xs">{LEAST_RIGHTS[kind]} It is sealed, and never shown again.</p>
  {/if}
  {#if spoken.hasTrust}
    <Fold titleClass="text-ink-2 text-xs" opens={text('authorityPem') !== '' || text('fingerprint') !== ''}>
      {#snippet title()}Its certificate, if you know it already{/snippet}
      <TextArea
        label="Certificate authority (PEM)"
        class="font-mono text-[11px]"
        name="authorityPem"
        rows="3"
        defaultValue={text('authorityPem')}
      />
      <Input
        label="Fingerprint, SHA-256"
        class="font-mono text-[11px]"
        name="fingerprint"
        defaultValue={text('fingerprint')}
      />
    </Fold>
  {/if}
  <Button look="strong" class="justify-self-start" disabled={isBusy}>
    {before === null || before.id === '' ? 'Check' : 'Check again'}
  </Button>
</Form>
