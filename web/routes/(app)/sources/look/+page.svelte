<script lang="ts">
  import PanelTitle from '$lib/components/ui/PanelTitle.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import TextArea from '$lib/components/ui/TextArea.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const look = $derived(data.look)
  const PROTOCOLS = {
    redfish: 'Redfish',
    snmp: 'SNMP',
    openmetrics: 'OpenMetrics',
    modbus: 'Modbus TCP',
    reach: 'something else',
  } as const
  const fresh = $derived((look?.found ?? []).filter((each) => each.known === null))
  const sentence = $derived.by(() => {
    if (look === null) return 'Give addresses, and see what answers there by which protocol.'
    const found = look.found.length
    const answers =
      found === 0 ? 'Nothing answers' : `${found} ${found === 1 ? 'thing answers' : 'things answer'}`
    const known = found - fresh.length
    const rest =
      found === 0
        ? ''
        : known === found
          ? ', all of them known'
          : known > 0
            ? `, ${known} of them known already`
            : ''
    if (!look.isOver)
      return `${answers} so far${rest}; ${look.done} of ${look.hosts} addresses are looked through.`
    return `${answers} at ${look.hosts} ${look.hosts === 1 ? 'address' : 'addresses'}${rest}.`
  })
</script>

<svelte:head><title>Scan network · {data.shell.site.name}</title></svelte:head>

<nav aria-label="Above">
  <Link class="text-ink-2 text-xs" href="/sources">Sources</Link> ·
  <Link class="text-ink-2 text-xs" href="/sources/connect">Connect</Link>
</nav>
<h1 aria-live="polite" data-testid="look-sentence">{sentence}</h1>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[330px_minmax(0,1fr)]">
  <Panel title="Scan" id="where">
    {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
    <Form class="grid gap-2.5">
      <TextArea
        label="Addresses"
        class="font-mono text-[11px]"
        name="addresses"
        rows="4"
        required
        placeholder="192.0.2.0/26, 192.0.2.80-95, pier.example"
        defaultValue={form?.addresses ?? ''}
      />
      <Input
        label="Other ports"
        name="ports"
        placeholder="443, 502, 80, 22 and SNMP's 161 are tried anyway"
      />
      {#if data.credentials.length > 0}
        <fieldset class="grid gap-0.5">
          <legend>Credentials to try with SNMP</legend>
          {#each data.credentials as credential (credential.id)}
            <Checkbox
              label={credential.name}
              name="credentials"
              value={String(credential.id)}
              defaultChecked
            />
          {/each}
        </fieldset>
      {/if}
      <p class="text-ink-2 text-xs">
        No credential goes to anything but SNMP: over TLS nothing is said before you have trusted the far
        side. A community goes over the wire in the open.
      </p>
      <Button look="strong" class="justify-self-start" disabled={look !== null && !look.isOver}>Look</Button>
    </Form>
  </Panel>
  <Panel>
    <PanelTitle id="answers">
      What answers {#if look !== null}<span>at most 1,024 addresses at a time</span>{/if}
    </PanelTitle>
    {#if look === null}
      <p>
        Each address is asked on a few ports for what it speaks: Redfish, SNMP, Modbus, metrics as text. What
        answers is listed here, with what it says of itself, and is one step from its check.
      </p>
      <p class="text-ink-2 mt-2 text-xs">It reads, and changes nothing. Look only through what is yours.</p>
    {:else if look.found.length === 0}
      <p class="text-ink-2 text-xs">
        {look.isOver
          ? 'Nothing answered. Is the range right, and may the collector go there? A firewall that drops looks the same as nothing.'
          : 'Nothing yet.'}
      </p>
    {:else}
      <Table>
        <thead
          ><tr><th>Address</th><th>Speaks</th><th>Says</th><th><span class="sr-only">Do</span></th></tr
          ></thead
        >
        <tbody>
          {#each look.found as each (`${each.protocol} ${each.address}`)}
            <tr data-testid="answer">
              <td class="max-w-60 font-mono text-[11px] break-words">{each.address}</td>
              <td class="whitespace-nowrap">{PROTOCOLS[each.protocol]}</td>
              <td class="text-ink-2 text-xs break-words">{each.said}</td>
              <td class="text-right whitespace-nowrap">
                {#if each.known !== null}
                  <Link class="text-ink-2 text-xs" href="/sources/{each.known.id}">{each.known.name}</Link>
                {:else}
                  <Button href={each.href}>Check</Button>
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </Table>
    {/if}
  </Panel>
</div>
