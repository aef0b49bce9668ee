<script lang="ts">
  import Input from '../ui/Input.svelte'
  /** The fields of a credential of one kind. */
  let { kind, isKept }: { kind: 'basic' | 'bearer' | 'snmp-v2c' | 'snmp-v3'; isKept: boolean } = $props()
  const placeholder = $derived(isKept ? 'as entered before' : '')
</script>

{#snippet field(name: string, label: string, isSecret: boolean)}
  <Input
    {label}
    {name}
    type={isSecret ? 'password' : 'text'}
    autocomplete={isSecret ? 'new-password' : 'off'}
    {placeholder}
  />
{/snippet}

{#if kind === 'basic'}
  {@render field('username', 'User', false)}
  {@render field('password', 'Password', true)}
{:else if kind === 'bearer'}
  {@render field('token', 'Token', true)}
{:else if kind === 'snmp-v2c'}
  {@render field('community', 'Community', true)}
{:else}
  {@render field('username', 'User', false)}
  {@render field('authPassword', 'Authentication password', true)}
  {@render field('privPassword', 'Privacy password, none where nothing is encrypted', true)}
{/if}
