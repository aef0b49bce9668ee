<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { untrack } from 'svelte'
  import { costOf, type MappingLine, type RegisterMap, whatHappened } from '#core/sources'
  import { formatBytes, formatMoment, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import Address from '$lib/components/sources/Address.svelte'
  import MetricsMapping from '$lib/components/sources/MetricsMapping.svelte'
  import PickTree from '$lib/components/sources/PickTree.svelte'
  import RegisterMapping from '$lib/components/sources/RegisterMapping.svelte'
  import ShownCertificate from '$lib/components/sources/ShownCertificate.svelte'
  import Stages from '$lib/components/sources/Stages.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const check = $derived(data.check)
  const tree = $derived(check?.tree ?? null)
  const certificate = $derived(check?.certificate ?? null)

  const sentence = $derived.by(() => {
    if (data.hasGone) return 'This check has gone; a check is kept for an hour. Check again.'
    if (check === null) return 'Enter an address. It is checked before anything is saved.'
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
  let begunWith: string | null = null
  $effect(() => {
    const found = tree
    const spoken = data.protocols.find(({ protocol }) => protocol === check?.protocol)
    const id = check?.id ?? null
    untrack(() => {
      // What is chosen and typed stays, however often the same check is asked for again.
      if (found === null || id === begunWith) return
      begunWith = id
      left = new Set(
        found
          .flatMap(({ item, groups }) => [item, ...groups.flatMap((group) => group.parts)])
          .filter((item) => !item.isWatched)
          .map((item) => `${item.gearKey}\n${item.partKey ?? ''}`),
      )
      if (found[0] !== undefined && name === '') name = `${found[0].item.name}${spoken?.nameEnding ?? ''}`
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
  <Panel title="Check" note={formatMoment(check.atMs, live.nowMs, data.shell.site.timeZone)} id="checked">
    {#if check.stages.length > 0}<Stages stages={check.stages} isOver={check.isOver} />{:else}
      <p class="text-ink-2 text-xs">A collector takes it up at once when one runs.</p>
    {/if}
  </Panel>
{/snippet}

<nav aria-label="Above"><Link class="text-ink-2 text-xs" href="/sources">Sources</Link></nav>
<h1 data-testid="check-sentence" aria-live="polite">{sentence}</h1>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[330px_minmax(0,1fr)]">
  <div class="grid gap-3.5">
    <Panel title="Address and credential" id="where">
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
    </Panel>
    {#if check === null}
      <Panel title="Push" note="OTLP" id="pushes">
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
        <Form action="?/push" class="grid grid-cols-2 gap-2">
          <Input label="Name" name="name" required maxlength="64" />
          <Input label="Interval (s)" name="intervalSeconds" inputmode="numeric" defaultValue="60" required />
          <p class="text-ink-2 col-span-2 text-xs">
            It gets a token of its own. How a sender names its gear stands in docs/otlp.md.
          </p>
          <Button look="strong" class="justify-self-start">Create push source</Button>
        </Form>
      </Panel>
    {/if}
  </div>

  <div class="grid gap-3.5">
    {#if check !== null && tree === null}{@render steps(check)}{/if}

    {#if check !== null && certificate !== null && check.failure?.kind === 'untrusted'}
      <ShownCertificate
        {certificate}
        checkId={check.id}
        message={form?.about === 'trust' ? (form.message ?? null) : null}
      />
    {/if}

    {#if check !== null && check.told !== null && (tree?.length ?? 0) === 0}{#key check.id}{@render mapping(
          check,
        )}{/key}{/if}
    {#if check !== null && tree !== null && tree.length > 0}
      <Panel title="Found" id="found">
        <Form action="?/save" class="border-rule-2 mb-2 grid gap-2 border-b pb-3">
          {#if form?.about === 'save' && form.message}<p class="text-crit" role="alert">
              {form.message}
            </p>{/if}
          <input type="hidden" name="check" value={check.id} />
          <input type="hidden" name="left" value={JSON.stringify([...left])} />
          <div class="flex flex-wrap items-end gap-2">
            <Input
              label="Name of the source"
              class="w-52"
              name="name"
              required
              maxlength="64"
              bind:value={name}
            />
            <Input
              label="Interval (s)"
              class="w-20"
              name="intervalSeconds"
              type="number"
              min="5"
              max="86400"
              required
              bind:value={intervalSeconds}
            />
            <Select
              label="New items"
              name="newItems"
              options={[
                { value: 'take', label: 'is watched at once' },
                { value: 'ask', label: 'waits until somebody says' },
              ]}
            />
            {#if check.hasOwnSecret}
              <Input
                label="Name of the credential"
                class="w-52"
                name="credentialName"
                maxlength="64"
                placeholder="{name} credential"
              />
            {/if}
            <Input label="Tags (comma-separated)" class="w-44" name="tags" placeholder="none" />
            {#if check.told !== null && check.settings['map'] !== undefined}
              <Input
                label="Name of the mapping"
                class="w-52"
                name="mappingName"
                maxlength="64"
                placeholder={data.mappings.find((each) => each.id === check.settings['mapId'])?.name ??
                  `${name} mapping`}
              />
            {/if}
            {#if data.racks.length > 0 && tree.length === 1}
              <Combobox
                label="Location"
                name="rackId"
                bind:value={rackId}
                options={[
                  { value: '', label: 'no rack yet' },
                  ...data.racks.map((rack) => ({ value: String(rack.id), label: rack.name })),
                ]}
              />
              {#if rackId !== ''}
                <Input
                  label="Lowest unit (U)"
                  class="w-16"
                  name="unit"
                  defaultValue="1"
                  inputmode="numeric"
                />
                <Input
                  label="Height (U)"
                  class="w-16"
                  name="heightUnits"
                  defaultValue="1"
                  inputmode="numeric"
                />
              {/if}
            {/if}
          </div>
          <div class="flex items-center gap-3">
            <Button look="strong" disabled={kept === 0}>Watch selected</Button>
            <p class="text-ink-2 text-xs" data-testid="cost">
              {kept} of {check.subjects.length} readings each time; {formatNumber(cost.readingsADay, 0)} a day,
              about {formatBytes(cost.bytesAYear)} in a year.
            </p>
          </div>
        </Form>
        {#each check.known as { key, gear, id, sources } (key)}
          <p class="text-ink-2 mb-1 text-xs" data-testid="known">
            <Link href="/gear/{id}">{gear}</Link> is known already{sources.length === 0
              ? ''
              : `, by ${sources.join(', ')}`}: it stays one gear, with one source more.
          </p>
        {/each}
        <PickTree {tree} {left} onLeft={(next) => (left = next)} />
      </Panel>
    {/if}
    {#if check !== null && check.told !== null && (tree?.length ?? 0) > 0}{#key check.id}{@render mapping(
          check,
        )}{/key}{/if}
    {#if check !== null && tree !== null}{@render steps(check)}{/if}
    {#if check === null}
      <Panel title="Next">
        <p>
          The collector goes from the name to the gear, step by step: name, port, certificate, credential, and
          what is there. Where it stops you see what was sent, what came back, and what usually mends it.
        </p>
        <p class="text-ink-2 mt-2 text-xs">
          Nothing is kept, and nothing changes on the far side, until you say so.
        </p>
        <p class="mt-2">
          Not sure what is there? <Link href="/sources/look">Scan the network</Link> and see what answers, by which
          protocol.
        </p>
      </Panel>
    {/if}
  </div>
</div>
