<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import { CHANNEL_WORDS } from '#core/callouts'
  import { formatAgo } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AlertTabs from '$lib/components/alerts/AlertTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import ChannelForm from '$lib/components/callouts/ChannelForm.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const stuck = $derived(data.channels.filter((each) => each.stuck > 0))
  const sentence = $derived(
    data.channels.length === 0
      ? 'No channel yet. Add a mail server first.'
      : stuck.length > 0
        ? `${stuck.map(({ name }) => `“${name}”`).join(' and ')} ${stuck.length === 1 ? 'is' : 'are'} stuck.`
        : `${data.channels.length} ${data.channels.length === 1 ? 'channel' : 'channels'} to tell people; none is stuck.`,
  )
  const addressesOf = (kind: string): { name: string; address: string }[] =>
    data.people.flatMap(({ name, email, phone }) => {
      const address = kind === 'mail' ? email : kind === 'text' ? phone : null
      return address === null ? [] : [{ name, address }]
    })
  const messageFor = (about: string): string | null =>
    form?.about === about && form.message !== null ? form.message : null
</script>

<svelte:head><title>Channels · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>
<AlertTabs />
{#each data.channels as channel (channel.id)}
  <Panel
    title={channel.name}
    note={`${CHANNEL_WORDS[channel.kind]}; ${channel.throughAtMs === null ? 'nothing sent yet' : `last through ${formatAgo(channel.throughAtMs, live.nowMs)}`}`}
    class="grid gap-2"
    aria-label={channel.name}
    data-testid="channel"
  >
    {#if channel.stuck > 0}
      <p class="flex items-baseline gap-2">
        <Glyph state="critical" label="stuck" />
        {channel.stuck}
        {channel.stuck === 1 ? 'message waits' : 'messages wait'}: {channel.answer}
      </p>
    {/if}
    <ChannelForm {channel} message={messageFor(String(channel.id))} />
    <div class="border-rule-2 flex flex-wrap items-end gap-2.5 border-t pt-2">
      <Form action="?/test" class="flex items-end gap-2.5">
        <input type="hidden" name="id" value={channel.id} />
        {#if channel.kind === 'mail' || channel.kind === 'text'}
          <Select
            label="Test recipient"
            class="w-72"
            name="address"
            options={addressesOf(channel.kind).map(({ name, address }) => ({
              value: address,
              label: `${name}, ${address}`,
            }))}
          />
        {/if}
        <Button
          disabled={(channel.kind === 'mail' || channel.kind === 'text') &&
            addressesOf(channel.kind).length === 0}>Send a test</Button
        >
        {#if (channel.kind === 'mail' || channel.kind === 'text') && addressesOf(channel.kind).length === 0}
          <span class="text-ink-2 pb-1.5 text-xs"
            >To test it, first enter somebody with {channel.kind === 'mail'
              ? 'a mail address'
              : 'a telephone number'}
            under <Link href="/alerts/callouts/teams">Teams</Link>.</span
          >
        {/if}
      </Form>
      <Form action="?/remove">
        <input type="hidden" name="id" value={channel.id} /><Button>Remove</Button>
      </Form>
      {#if data.test?.channelId === channel.id}
        <p role="status" data-testid="test-outcome" class={data.test.isFailed ? 'text-crit' : ''}>
          {data.test.isOver
            ? data.test.isFailed
              ? `The test did not go through: ${data.test.answer ?? ''}`
              : `The test is through: ${data.test.answer ?? ''}`
            : 'The test is on its way …'}
        </p>
      {/if}
    </div>
  </Panel>
{/each}
<Panel title="Add channel">
  <ChannelForm channel={null} message={messageFor('')} />
</Panel>
<Panel
  title="Allowed commands"
  note="they stand in commands.json beside a collector’s data; who administers that machine allows them there, not here"
>
  <ul>
    {#each data.commands as command (command.collector + command.name)}
      <li class="py-0.5">
        <b class="font-[620]">{command.name}</b> <span class="place">{command.words}</span>
        <span class="text-ink-2 text-xs">on {command.collector}</span>
      </li>
    {:else}<li class="text-ink-2 text-xs">None. docs/callouts.md says how to allow one.</li>{/each}
  </ul>
</Panel>
