<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Table from '../ui/Table.svelte'
  import Button from '../ui/Button.svelte'
  import type { Role } from '#core/accounts'
  import { formatAgo } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'

  export interface ListedToken {
    readonly id: number
    readonly name: string
    readonly role: Role
    /** Whose it is; of a machine `null`. Not there where all are of one person. */
    readonly owner?: string | null
    readonly endsMs: number
    readonly usedMs: number | null
  }

  let { tokens }: { tokens: readonly ListedToken[] } = $props()
  const live = useLive()
  const hasOwners = $derived(tokens.some(({ owner }) => owner !== undefined))
  const day = (ms: number): string => new Date(ms).toISOString().slice(0, 10)
</script>

{#if tokens.length > 0}
  <Table>
    <thead>
      <tr>
        <th>Name</th>{#if hasOwners}<th>Of</th>{/if}<th>May</th><th>Holds until</th><th>Last used</th><th
          ><span class="sr-only">Do</span></th
        >
      </tr>
    </thead>
    <tbody>
      {#each tokens as token (token.id)}
        <tr data-testid="token-row">
          <td class="font-[640]">{token.name}</td>
          {#if hasOwners}<td class="text-ink-2 text-xs">{token.owner ?? 'a machine'}</td>{/if}
          <td>{token.role}</td>
          <td class={token.endsMs < live.nowMs ? 'text-warn font-semibold' : 'text-ink-2 text-xs'}
            >{day(token.endsMs)}{token.endsMs < live.nowMs ? ', over' : ''}</td
          >
          <td class="text-ink-2 text-xs"
            >{token.usedMs === null ? 'never' : formatAgo(token.usedMs, live.nowMs)}</td
          >
          <td class="text-right">
            <Form action="?/dropToken">
              <input type="hidden" name="id" value={token.id} />
              <Button>Revoke</Button>
            </Form>
          </td>
        </tr>
      {/each}
    </tbody>
  </Table>
{:else}
  <p class="text-ink-2 text-xs">None yet.</p>
{/if}
