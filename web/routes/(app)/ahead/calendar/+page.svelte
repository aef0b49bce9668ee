<script lang="ts">
  import { formatAgo } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import OneTimeSecret from '$lib/components/accounts/OneTimeSecret.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
</script>

<svelte:head><title>Calendar feed · Ahead · {data.shell.site.name}</title></svelte:head>

<h1>
  Order-by and run-out dates in a calendar. <span class="text-ink-2 font-[450]"
    >Whoever has a link reads them without signing in, until you delete it.</span
  >
</h1>
{#if form?.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
{#if form !== null && 'address' in form && typeof form.address === 'string'}
  <OneTimeSecret
    value={form.address}
    what="Subscribe to this address in your calendar (iCalendar). It is kept as a hash and not shown again."
  />
{/if}
<Panel title="Your links" id="links">
  <Table>
    <thead
      ><tr><th>Name</th><th>Added</th><th>Last used</th><th><span class="sr-only">Delete</span></th></tr
      ></thead
    >
    <tbody>
      {#each data.links as link (link.id)}
        <tr data-testid="calendar-link">
          <td class="font-[640]">{link.name}</td>
          <td class="text-ink-2 text-xs">{formatAgo(link.madeMs, live.nowMs)}</td>
          <td class="text-ink-2 text-xs"
            >{link.usedMs === null ? 'never' : formatAgo(link.usedMs, live.nowMs)}</td
          >
          <td class="text-right">
            <Form action="?/delete">
              <input type="hidden" name="id" value={link.id} />
              <Button>Delete</Button>
            </Form>
          </td>
        </tr>
      {:else}
        <tr><td colspan="4" class="text-ink-2 text-xs">None yet. Add one below.</td></tr>
      {/each}
    </tbody>
  </Table>
  <Form action="?/add" class="mt-3 flex items-end gap-2">
    <Input label="Name" name="name" required maxlength="64" placeholder="Telephone" class="w-56" />
    <Button look="strong">Add link</Button>
  </Form>
</Panel>
<p class="text-ink-2 text-xs"><Link href="/ahead">Back to Ahead</Link></p>
