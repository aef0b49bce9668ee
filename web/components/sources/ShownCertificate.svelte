<script lang="ts">
  import Button from '../ui/Button.svelte'
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'

  /** A certificate that nothing here trusts yet, to be compared and trusted. */
  let {
    certificate,
    checkId,
    message,
  }: {
    certificate: {
      readonly subject: string
      readonly names: readonly string[]
      readonly issuer: string
      readonly validFromMs: number
      readonly validToMs: number
      readonly fingerprint: string
      readonly authority: { readonly subject: string } | null
    }
    checkId: string | number
    message: string | null
  } = $props()
</script>

<Panel title="The certificate that it shows" id="certificate">
  {#if message !== null}<p class="text-crit mb-2" role="alert">
      {message}
    </p>{/if}
  <dl class="grid grid-cols-[110px_minmax(0,1fr)] gap-x-3 gap-y-0.5">
    <dt class="text-ink-2 text-xs">Made out to</dt>
    <dd>
      {certificate.subject}{certificate.names.length > 0 ? ` (${certificate.names.join(', ')})` : ''}
    </dd>
    <dt class="text-ink-2 text-xs">Signed by</dt>
    <dd>{certificate.issuer}</dd>
    <dt class="text-ink-2 text-xs">Valid</dt>
    <dd>
      {new Date(certificate.validFromMs).toISOString().slice(0, 10)} to {new Date(certificate.validToMs)
        .toISOString()
        .slice(0, 10)}
    </dd>
    <dt class="text-ink-2 text-xs">Fingerprint</dt>
    <dd class="font-mono text-[11px] break-all">{certificate.fingerprint}</dd>
  </dl>
  <p class="text-ink-2 mt-2 text-xs">
    Compare the fingerprint with what the device itself shows. Nothing was sent to it beyond the handshake.
  </p>
  <Form action="?/trust" class="mt-2 flex flex-wrap gap-2">
    <input type="hidden" name="check" value={checkId} />
    {#if certificate.authority !== null}
      <Button look="strong" name="trust" value="authority"
        >Trust the authority “{certificate.authority.subject}” for this source</Button
      >
    {/if}
    <Button name="trust" value="fingerprint">Trust this one certificate</Button>
    <Button href="/sources/connect">Refuse</Button>
  </Form>
</Panel>
