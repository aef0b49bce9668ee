<script lang="ts">
  import { untrack } from 'svelte'
  import { costOf, type MappingLine, type RegisterMap, whatHappened } from '#core/sources'
  import { formatBytes, formatMoment, formatNumber } from '#core/units'
  import { enhance } from '$lib/client/forms'
  import { useLive } from '$lib/client/live.svelte'
  import Address from '$lib/components/sources/Address.svelte'
  import MetricsMapping from '$lib/components/sources/MetricsMapping.svelte'
  import PickTree from '$lib/components/sources/PickTree.svelte'
  import RegisterMapping from '$lib/components/sources/RegisterMapping.svelte'
  import Stages from '$lib/components/sources/Stages.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const check = $derived(data.check)
  const tree = $derived(check?.tree ?? null)
  const certificate = $derived(check?.certificate ?? null)

  const sentence = $derived.by(() => {
    if (data.hasGone) return 'This check has gone; a check is kept for an hour. Check again.'
    if (check === null) return 'Say where it is, and it is looked at before anything is kept.'
    if (!check.isOver)
      return check.isStarted
        ? `${check.address} is being looked at.`
        : `Waiting for the collector to look at ${check.address}.`
    if (check.failure !== null) return whatHappened(check.failure)
    return `Found: ${check.stages.find((each) => each.stage === 'found')?.said ?? ''}`
  })

  // What is left out by itself at first; a new check begins anew.
  let left = $state<ReadonlySet<string>>(new Set())
  let intervalSeconds = $state(60)
  let name = $state('')
  let rackId = $state('')
  $effect(() => {
    const found = tree
    const spoken = data.protocols.find(({ protocol }) => protocol === check?.protocol)
    untrack(() => {
      left = new Set(
        (found ?? [])
          .flatMap(({ item, groups }) => [item, ...groups.flatMap((group) => group.parts)])
          .filter((item) => !item.isWatched)
          .map((item) => `${item.gearKey}\n${item.partKey ?? ''}`),
      )
      if (found?.[0] !== undefined && name === '') name = `${found[0].item.name}${spoken?.nameEnding ?? ''}`
      if (spoken !== undefined) intervalSeconds = spoken.usualIntervalSeconds
    })
  })
  const kept = $derived(
    (check?.subjects ?? []).filter((key) => !left.has(key) && !left.has(`${key.split('\n')[0]}\n`)).length,
  )
  const cost = $derived(costOf(kept, Math.max(5, intervalSeconds || 60)))
</script>

<svelte:head><title>Connect · {data.shell.site.name}</title></svelte:head>

{#snippet mapping(check: NonNullable<typeof data.check>)}
  {#if form?.about === 'map' && form.message}<p class="text-crit" role="alert">{form.message}</p>{/if}
  {#if check.told?.kind === 'series'}
    <MetricsMapping
      checkId={check.id}
      address={check.address}
      series={check.told.series}
      kept={(check.settings['map'] ?? []) as MappingLine[]}
      nowMs={check.atMs}
    />
  {:else if check.told?.kind === 'registers'}
    <RegisterMapping
      checkId={check.id}
      blocks={check.told.blocks}
      refused={check.told.refused ?? null}
      kept={(check.settings['map'] ?? null) as RegisterMap | null}
    />
  {/if}
{/snippet}

{#snippet steps(check: NonNullable<typeof data.check>)}
  <section class="panel" aria-labelledby="checked">
    <h2 class="panel-title" id="checked">
      The check <span>{formatMoment(check.atMs, live.nowMs, data.shell.site.timeZone)}</span>
    </h2>
    {#if check.stages.length > 0}<Stages stages={check.stages} isOver={check.isOver} />{:else}
      <p class="muted">A collector takes it up at once when one runs.</p>
    {/if}
  </section>
{/snippet}

<nav aria-label="Above"><a class="link muted" href="/sources">Sources</a></nav>
<h1 data-testid="check-sentence" aria-live="polite">{sentence}</h1>

<div class="grid grid-cols-[330px_minmax(0,1fr)] items-start gap-4">
  <div class="grid gap-3.5">
    <section class="panel" aria-labelledby="where">
      <h2 class="panel-title" id="where">Where, and as whom</h2>
      {#if form?.about === 'address' && form.message}<p class="text-crit mb-2" role="alert">
          {form.message}
        </p>{/if}
      {#key check?.id}
        <Address
          protocols={data.protocols}
          credentials={data.credentials}
          mappings={data.mappings}
          before={check ?? data.prefill}
          isBusy={check !== null && !check.isOver}
        />
      {/key}
    </section>
    {#if check === null}
      <section class="panel" aria-labelledby="pushes">
        <h2 class="panel-title" id="pushes">Or it pushes to us <span>OTLP</span></h2>
        {#if form?.about === 'push' && form.message}<p class="text-crit mb-2" role="alert">
            {form.message}
          </p>{/if}
        {#if form?.token}
          <p class="mb-2" role="status">
            {form.name} pushes to
            <code class="font-mono text-[11px]">http://127.0.0.1:{data.receiverPort}/v1/metrics</code>
            with this bearer token. It is shown only now:
            <code class="bg-accent-soft font-mono text-[11px] break-all">{form.token}</code>
          </p>
        {/if}
        <form method="POST" action="?/push" use:enhance class="grid grid-cols-2 gap-2">
          <label class="grid gap-0.5">Name <input class="field" name="name" required maxlength="64" /></label>
          <label class="grid gap-0.5"
            >Pushes every, s <input
              class="field"
              name="intervalSeconds"
              inputmode="numeric"
              value="60"
              required
            /></label
          >
          <p class="muted col-span-2">
            It gets a token of its own. How a sender names its gear stands in docs/otlp.md.
          </p>
          <button class="btn btn-strong justify-self-start">Let it push</button>
        </form>
      </section>
    {/if}
  </div>

  <div class="grid gap-3.5">
    {#if check !== null && tree === null}{@render steps(check)}{/if}

    {#if certificate !== null && check?.failure?.kind === 'untrusted'}
      <section class="panel" aria-labelledby="certificate">
        <h2 class="panel-title" id="certificate">The certificate that it shows</h2>
        {#if form?.about === 'trust' && form.message}<p class="text-crit mb-2" role="alert">
            {form.message}
          </p>{/if}
        <dl class="grid grid-cols-[110px_minmax(0,1fr)] gap-x-3 gap-y-0.5">
          <dt class="muted">Made out to</dt>
          <dd>
            {certificate.subject}{certificate.names.length > 0 ? ` (${certificate.names.join(', ')})` : ''}
          </dd>
          <dt class="muted">Signed by</dt>
          <dd>{certificate.issuer}</dd>
          <dt class="muted">Valid</dt>
          <dd>
            {new Date(certificate.validFromMs).toISOString().slice(0, 10)} to {new Date(certificate.validToMs)
              .toISOString()
              .slice(0, 10)}
          </dd>
          <dt class="muted">Fingerprint</dt>
          <dd class="font-mono text-[11px] break-all">{certificate.fingerprint}</dd>
        </dl>
        <p class="muted mt-2">
          Compare the fingerprint with what the device itself shows. Nothing was sent to it beyond the
          handshake.
        </p>
        <form method="POST" action="?/trust" use:enhance class="mt-2 flex flex-wrap gap-2">
          <input type="hidden" name="check" value={check.id} />
          {#if certificate.authority !== null}
            <button class="btn btn-strong" name="trust" value="authority"
              >Trust the authority «{certificate.authority.subject}» for this source</button
            >
          {/if}
          <button class="btn" name="trust" value="fingerprint">Trust this one certificate</button>
          <a class="btn" href="/sources/connect">Refuse</a>
        </form>
      </section>
    {/if}

    {#if check !== null && check.told !== null && (tree?.length ?? 0) === 0}{#key check.id}{@render mapping(
          check,
        )}{/key}{/if}
    {#if check !== null && tree !== null && tree.length > 0}
      <section class="panel" aria-labelledby="found">
        <h2 class="panel-title" id="found">What was found</h2>
        <form method="POST" action="?/save" use:enhance class="border-rule-2 mb-2 grid gap-2 border-b pb-3">
          {#if form?.about === 'save' && form.message}<p class="text-crit" role="alert">
              {form.message}
            </p>{/if}
          <input type="hidden" name="check" value={check.id} />
          <input type="hidden" name="left" value={JSON.stringify([...left])} />
          <div class="flex flex-wrap items-end gap-2">
            <label class="grid gap-0.5"
              >Name of the source <input
                class="field w-52"
                name="name"
                required
                maxlength="64"
                bind:value={name}
              /></label
            >
            <label class="grid gap-0.5"
              >Ask every, s <input
                class="field w-20"
                name="intervalSeconds"
                type="number"
                min="5"
                max="86400"
                required
                bind:value={intervalSeconds}
              /></label
            >
            <label class="grid gap-0.5">
              What appears later
              <select class="field" name="newItems">
                <option value="take">is watched at once</option>
                <option value="ask">waits until somebody says</option>
              </select>
            </label>
            {#if check.hasOwnSecret}
              <label class="grid gap-0.5"
                >Keep the credential as <input
                  class="field w-52"
                  name="credentialName"
                  maxlength="64"
                  placeholder="{name} credential"
                /></label
              >
            {/if}
            <label class="grid gap-0.5"
              >Tags, with commas <input class="field w-44" name="tags" placeholder="none" /></label
            >
            {#if check.told !== null && check.settings['map'] !== undefined}
              <label class="grid gap-0.5"
                >Keep the mapping as <input
                  class="field w-52"
                  name="mappingName"
                  maxlength="64"
                  placeholder={data.mappings.find((each) => each.id === check.settings['mapId'])?.name ??
                    `${name} mapping`}
                /></label
              >
            {/if}
            {#if data.racks.length > 0 && tree.length === 1}
              <label class="grid gap-0.5">
                Stands in
                <select class="field" name="rackId" bind:value={rackId}>
                  <option value="">no rack yet</option>
                  {#each data.racks as rack (rack.id)}<option value={String(rack.id)}>{rack.name}</option
                    >{/each}
                </select>
              </label>
              {#if rackId !== ''}
                <label class="grid gap-0.5"
                  >Lowest U <input class="field w-16" name="unit" value="1" inputmode="numeric" /></label
                >
                <label class="grid gap-0.5"
                  >High, U <input
                    class="field w-16"
                    name="heightUnits"
                    value="1"
                    inputmode="numeric"
                  /></label
                >
              {/if}
            {/if}
          </div>
          <div class="flex items-center gap-3">
            <button class="btn btn-strong" disabled={kept === 0}>Watch what is picked</button>
            <p class="muted" data-testid="cost">
              {kept} of {check.subjects.length} readings each time; {formatNumber(cost.readingsADay, 0)} a day,
              about {formatBytes(cost.bytesAYear)} in a year.
            </p>
          </div>
        </form>
        {#each check.known as { key, gear, id, sources } (key)}
          <p class="muted mb-1" data-testid="known">
            <a class="link" href="/gear/{id}">{gear}</a> is known already{sources.length === 0
              ? ''
              : `, by ${sources.join(', ')}`}: it stays one gear, with one source more.
          </p>
        {/each}
        <PickTree {tree} {left} onLeft={(next) => (left = next)} />
      </section>
    {/if}
    {#if check !== null && check.told !== null && (tree?.length ?? 0) > 0}{#key check.id}{@render mapping(
          check,
        )}{/key}{/if}
    {#if check !== null && tree !== null}{@render steps(check)}{/if}
    {#if check === null}
      <section class="panel">
        <h2 class="panel-title">What happens then</h2>
        <p>
          The collector goes from the name to the gear, step by step: name, port, certificate, credential, and
          what is there. Where it stops you see what was sent, what came back, and what usually mends it.
        </p>
        <p class="muted mt-2">Nothing is kept, and nothing changes on the far side, until you say so.</p>
        <p class="mt-2">
          Not sure what is there? <a class="link" href="/sources/look">Look through addresses</a> and see what answers,
          by which protocol.
        </p>
      </section>
    {/if}
  </div>
</div>
