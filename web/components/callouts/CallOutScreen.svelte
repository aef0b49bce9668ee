<script lang="ts">
  import Link from '../ui/Link.svelte'
  import type { ComponentProps } from 'svelte'
  import AlertTabs from '../alerts/AlertTabs.svelte'
  import CallOutEditor from './CallOutEditor.svelte'

  type Editor = ComponentProps<typeof CallOutEditor>
  /** The screen of one call-out, or of a new one. */
  let {
    form,
    places,
    message,
    dry,
    site,
  }: {
    form: Omit<Editor, 'places' | 'message' | 'dry'>
    places: Editor['places']
    message: string | null
    dry: Editor['dry']
    site: string
  } = $props()
  const title = $derived(form.kept === null ? 'A new call-out' : form.kept.name)
</script>

<svelte:head><title>{title} · {site}</title></svelte:head>

<h1>
  {title}{form.kept === null ? ': who is told, by which channel, in which steps.' : '.'}
  {#if form.kept?.isOn === false}<span class="text-ink-2 font-[450]">It is switched off.</span>{/if}
</h1>
<AlertTabs />
{#if form.channels.length === 0 || form.teams.length === 0}
  <p>
    First <Link href="/alerts/callouts/channels">set up a channel</Link> and
    <Link href="/alerts/callouts/teams">a team</Link>: a call-out joins the two.
  </p>
{/if}
<CallOutEditor {...form} {places} {message} {dry} />
