<script lang="ts">
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import Tick from '$lib/components/ui/Tick.svelte'
  import Combobox from '$lib/components/ui/Combobox.svelte'
  import Confirm from '$lib/components/ui/Confirm.svelte'
  import DateTimeInput from '$lib/components/ui/DateTimeInput.svelte'
  import DataTable from '$lib/components/ui/DataTable.svelte'
  import type { Column } from '$lib/components/ui/dataTable'
  import Dialog from '$lib/components/ui/Dialog.svelte'
  import EmptyState from '$lib/components/ui/EmptyState.svelte'
  import FileInput from '$lib/components/ui/FileInput.svelte'
  import Fold from '$lib/components/ui/Fold.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Menu from '$lib/components/ui/Menu.svelte'
  import Notice from '$lib/components/ui/Notice.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Popover from '$lib/components/ui/Popover.svelte'
  import Progress from '$lib/components/ui/Progress.svelte'
  import RadioGroup from '$lib/components/ui/RadioGroup.svelte'
  import RangePicker from '$lib/components/ui/RangePicker.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Sortable from '$lib/components/ui/Sortable.svelte'
  import Split from '$lib/components/ui/Split.svelte'
  import Switch from '$lib/components/ui/Switch.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import TextArea from '$lib/components/ui/TextArea.svelte'
  import ToggleGroup from '$lib/components/ui/ToggleGroup.svelte'
  import { toasts } from '$lib/components/ui/toasts.svelte'
  import Tooltip from '$lib/components/ui/Tooltip.svelte'
  import { GEAR_STATES, STATE_WORDS } from '#core/gear'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  let isOpen = $state(false)
  let view = $state('front')
  let did = $state('')
  const RACKS = ['B01', 'B02', 'B03', 'B04'].map((name) => ({
    value: name,
    label: name,
    group: 'Breakwater Hall',
  }))
  const MANY = Array.from({ length: 2000 }, (_, index) => ({
    value: String(index),
    label: `petrel-${String(index).padStart(4, '0')}`,
  }))
  let selected = $state<ReadonlySet<number>>(new Set())
  const HOSTS = Array.from({ length: 2000 }, (_, id) => ({
    id,
    name: `petrel-${id}`,
    watts: id % 7 === 3 ? null : 300 + ((id * 37) % 190),
    rack: `B0${1 + (id % 4)}`,
  }))
  const COLUMNS: readonly Column<(typeof HOSTS)[number]>[] = [
    { key: 'name', label: 'Name', width: 'w-28 grow', value: ({ name }) => name },
    { key: 'rack', label: 'Rack', width: 'w-16', value: ({ rack }) => rack },
    {
      key: 'watts',
      label: 'Power',
      width: 'w-20',
      isNumber: true,
      value: ({ watts }) => watts,
      text: ({ watts }) => (watts === null ? '' : `${watts} W`),
    },
    { key: 'id', label: 'Number', width: 'w-16', isNumber: true, isExtra: true, value: ({ id }) => id },
  ]
  let steps = $state([1, 2, 3].map((key) => ({ key, name: ['mail', 'text', 'telephone'][key - 1]! })))
</script>

<svelte:head><title>Kit · {data.shell.site.name}</title></svelte:head>

<h1>Kit. <span class="text-ink-2 font-[450]">Every part of the interface with its states.</span></h1>

<div class="grid grid-cols-2 items-start gap-3.5">
  <Panel title="Buttons" note="a verb, with its object where two could be meant" class="grid gap-3">
    <div class="flex flex-wrap items-center gap-2">
      <Button>Cancel</Button>
      <Button look="strong">Save rule</Button>
      <Button look="danger">Delete rule</Button>
      <Button disabled>Disabled</Button>
      <Button href="/">Link as button</Button>
      <Button look="link">Button as link</Button>
      <Link href="/">Link</Link>
    </div>
    <div class="flex flex-wrap items-center gap-2">
      <Confirm
        label="Delete group"
        question="Delete the group Tide forecast?"
        consequence="Its members stay."
        act="Delete group"
      />
      <Button onclick={() => (isOpen = true)}>Open dialog</Button>
      <Dialog bind:open={isOpen} title="Dialog" description="Something to look at before the page goes on.">
        <p>Its content.</p>
      </Dialog>
      <Popover class="decoration-rule underline">
        {#snippet trigger()}Popover{/snippet}
        <p>Details beside what they belong to.</p>
      </Popover>
      <Tooltip text="Sent to the night team at 10:41"><Glyph state="quiet" label="sent" /></Tooltip>
      <Menu
        label="Menu"
        entries={[
          { label: 'Do this', act: () => (did = 'this') },
          { label: 'Watch', href: '/' },
        ]}
      />
      <span role="status">{did}</span>
    </div>
    <div class="flex gap-3">
      {#each GEAR_STATES as state (state)}<span><Glyph {state} /> {STATE_WORDS[state]}</span>{/each}
    </div>
  </Panel>
  <Panel title="Text" class="grid grid-cols-2 gap-3">
    <Input label="Name" required />
    <Input label="Interval" unit="s" class="w-20" defaultValue="60" help="How often it is asked." />
    <Input label="Address" defaultValue="192.0.2.300" error="“192.0.2.300” is not an address." />
    <Input label="Disabled" disabled defaultValue="as it was" />
    <TextArea label="Reason" rows={2} />
    <FileInput label="File" accept=".csv" />
  </Panel>
  <Panel title="Choices" class="grid grid-cols-2 gap-3">
    <Select label="Rack" options={RACKS} defaultValue="B02" />
    <Select label="Not chosen" options={RACKS} defaultValue="" error="Choose a rack." />
    <Combobox label="Gear" options={MANY} defaultValue="7" help="2,000 entries; type to search." />
    <DateTimeInput label="From" defaultValue="2026-11-27T10:41" />
    <div class="grid content-start gap-2">
      <Checkbox label="Notify when it has cleared" defaultChecked />
      <Checkbox label="Disabled" disabled />
      <Checkbox label="Some of them" indeterminate />
      <Tick checked aria-label="Of many" />
      <Switch label="Enabled" defaultChecked />
    </div>
    <RadioGroup
      label="Severity"
      value="warning"
      options={[
        { value: 'warning', label: 'Warning', help: 'can wait for the morning' },
        { value: 'critical', label: 'Critical' },
      ]}
    />
    <ToggleGroup
      label="View"
      bind:value={view}
      class="justify-self-start"
      options={[
        { value: 'front', label: 'Front' },
        { value: 'rear', label: 'Rear' },
      ]}
    />
    <div>
      <RangePicker
        presets={[{ value: '6h', label: 'Last 6 hours' }]}
        preset="6h"
        fromMs={data.shell.nowMs - 21_600_000}
        toMs={data.shell.nowMs}
        label="Last 6 hours"
        timeZone={data.shell.site.timeZone}
        choosePreset={(key) => (did = key)}
        chooseRange={(from, to) => (did = `${to - from} ms`)}
        aria-label="Time range of the kit"
      />
    </div>
  </Panel>
  <Panel title="What is said" class="grid gap-3">
    <Notice>3 alerts are accepted.</Notice>
    <Notice kind="caution">The certificate is valid for 6 days more.</Notice>
    <Notice kind="problem">The mail server refused the password: 535 authentication failed.</Notice>
    <EmptyState text="No teams yet. A call-out needs one."><Button>Add team</Button></EmptyState>
    <Progress label="Days laid down" share={0.4} />
    <Progress label="At work" />
    <Fold>
      {#snippet title()}Folded away{/snippet}
      <p>What is needed seldom.</p>
    </Fold>
    <Table>
      <thead><tr><th>Gear</th><th class="text-right!">Power</th></tr></thead>
      <tbody>
        <tr><td>petrel-07</td><td class="text-right">395 W</td></tr>
        <tr><td>petrel-08</td><td class="text-right">402 W</td></tr>
      </tbody>
    </Table>
  </Panel>
  <Panel title="Table" note="2,000 rows">
    <DataTable
      name="Hosts of the kit"
      rows={HOSTS}
      columns={COLUMNS}
      idOf={({ id }) => id}
      bind:selected
      height="h-48"
      says="{selected.size} of {HOSTS.length} selected"
    />
  </Panel>
  <Panel title="Moved about" class="grid gap-3">
    <Sortable bind:items={steps} name="Order of the kit" labelOf={({ name }) => name}>
      {#snippet row({ name })}<span class="border-rule-2 border-t py-1.5">{name}</span>{/snippet}
    </Sortable>
    <Split name="Panes of the kit" share={60}>
      {#snippet first()}<p class="bg-accent-soft p-3">First pane</p>{/snippet}
      {#snippet second()}<p class="bg-accent-soft p-3">Second pane</p>{/snippet}
    </Split>
    <div class="flex gap-2">
      <Button onclick={() => void toasts.say({ text: '3 alerts are accepted.' })}>Say it</Button>
      <Button
        onclick={() => void toasts.say({ text: 'The mail server refused the password.', kind: 'problem' })}
        >Say what failed</Button
      >
    </div>
  </Panel>
</div>
