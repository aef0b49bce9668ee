<script lang="ts">
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { GEAR_KINDS, type GearKind } from '#core/catalogue'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import type { RuleView } from '$lib/server/rules/rules'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  let words = $state('')

  const own = $derived(data.rules.filter((rule) => !rule.isDefault))
  const off = $derived(data.rules.filter((rule) => !rule.isOn).length)
  const loudest = $derived(data.rules.toSorted((a, b) => b.month - a.month)[0])
  const plural = (count: number, one: string, many = `${one}s`): string =>
    `${count} ${count === 1 ? one : many}`
  const sentence = $derived(
    `${plural(data.rules.length, 'rule')} over ${data.series.toLocaleString('en').replaceAll(',', '\u202f')} series: ` +
      `${data.rules.length - own.length} shipped, ${own.length} of your own${off === 0 ? '' : `, ${off} off`}.`,
  )
  const fits = (rule: RuleView): boolean =>
    words
      .toLowerCase()
      .split(/\s+/)
      .every((word) => `${rule.name} ${rule.words} ${rule.scope} ${rule.why}`.toLowerCase().includes(word))
  const shown = $derived(data.rules.filter(fits))
  const groups = $derived(
    [
      { title: 'Of your own', rules: shown.filter((rule) => !rule.isDefault) },
      {
        title: 'Shipped, for whatever it is',
        rules: shown.filter((rule) => rule.isDefault && rule.gearKind === null),
      },
      ...(Object.keys(GEAR_KINDS) as GearKind[]).map((kind) => ({
        title: `Shipped, for ${GEAR_KINDS[kind].plural}`,
        rules: shown.filter((rule) => rule.isDefault && rule.gearKind === kind),
      })),
    ].filter(({ rules }) => rules.length > 0),
  )
</script>

<svelte:head><title>Rules · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">
  {sentence}
  {#if loudest !== undefined && loudest.month > 0}
    <span class="text-ink-2 font-[450]"
      >Most was raised within 30 days by “{loudest.name}”: {plural(loudest.month, 'alert')}.</span
    >
  {/if}
</h1>
<AlertTabs />

<div class="flex items-center gap-3">
  <Input
    class="w-72"
    type="search"
    placeholder="Name, measure, place"
    aria-label="Only rules with these words"
    bind:value={words}
  />
  <span class="text-ink-2 text-xs"
    >Of rules that say the same, the most specific is in force, and own ones before shipped ones.</span
  >
  {#if data.mayAdminister}<Button look="strong" href="/alerts/rules/new" class="ml-auto">New rule</Button
    >{/if}
</div>

{#each groups as { title, rules } (title)}
  <Panel {title} aria-label={title}>
    <Table>
      <thead>
        <tr>
          <th class="w-[27%]">Rule</th>
          <th>Holds when</th>
          <th class="w-28 text-right!">In force on</th>
          <th class="w-24 text-right!">Open now</th>
          <th class="w-24 text-right!">In 30 days</th>
        </tr>
      </thead>
      <tbody>
        {#each rules as rule (rule.id)}
          <tr data-row data-testid="rule-row" class:opacity-60={!rule.isOn}>
            <td>
              <a class="font-[620] hover:underline" href="/alerts/rules/{rule.id}">{rule.name}</a>
              <p class="text-ink-2 text-xs">
                {rule.scope}{#if !rule.isDefault && rule.createdBy !== null}<span class="text-ink-3"
                    >, by {rule.createdBy}</span
                  >{/if}
              </p>
            </td>
            <td>
              {rule.words}
              <p class="text-ink-2 text-xs">{rule.why}</p>
            </td>
            <td class="text-right">
              {#if !rule.isOn}<Glyph state="quiet" label="off" /> off{:else}
                {rule.inForce}
                {#if rule.overridden > 0}<p class="text-ink-2 text-xs">
                    overridden on {rule.overridden}
                  </p>{/if}
              {/if}
            </td>
            <td class="text-right" class:font-bold={rule.open > 0}>{rule.open === 0 ? '–' : rule.open}</td>
            <td class="text-right">{rule.month === 0 ? '–' : rule.month}</td>
          </tr>
        {/each}
      </tbody>
    </Table>
  </Panel>
{:else}
  <p class="text-ink-2 text-xs">No rule has these words.</p>
{/each}
