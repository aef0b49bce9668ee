<script lang="ts">
  import type { Role } from '#core/accounts'
  import { formatAgo } from '#core/units'
  import { enhance } from '$lib/client/forms'
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
  <table class="ledger">
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
          {#if hasOwners}<td class="muted">{token.owner ?? 'a machine'}</td>{/if}
          <td>{token.role}</td>
          <td class={token.endsMs < live.nowMs ? 'text-warn font-semibold' : 'muted'}
            >{day(token.endsMs)}{token.endsMs < live.nowMs ? ', over' : ''}</td
          >
          <td class="muted">{token.usedMs === null ? 'never' : formatAgo(token.usedMs, live.nowMs)}</td>
          <td class="text-right">
            <form method="POST" action="?/dropToken" use:enhance>
              <input type="hidden" name="id" value={token.id} />
              <button class="btn">End</button>
            </form>
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
{:else}
  <p class="muted">None yet.</p>
{/if}
