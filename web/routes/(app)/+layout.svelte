<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import { browser } from '$app/environment'
  import { goto, invalidate } from '$app/navigation'
  import { navigating, page } from '$app/state'
  import { onMount, untrack } from 'svelte'
  import { setOwnMeasures } from '#core/catalogue'
  import { windowOf } from '#core/readings'
  import { formatAgo, formatMoment, readTemperaturesIn } from '#core/units'
  import { keyHandler } from '$lib/client/keys'
  import { mayDo } from '#core/accounts'
  import { SCREENS } from '$lib/screens'
  import { Live, provideLive } from '$lib/client/live.svelte'
  import { findAnything } from '$lib/client/requests'
  import { addressOf, keepingWhatStands } from '$lib/client/standing'
  import { CLOCK, keysOf, Stale, topicKey } from '$lib/client/topics'
  import CallStrip from '$lib/components/callouts/CallStrip.svelte'
  import { toasts } from '$lib/components/ui/toasts.svelte'
  import FindBox from '$lib/components/shell/FindBox.svelte'
  import KeysDialog from '$lib/components/shell/KeysDialog.svelte'
  import PersonMenu from '$lib/components/shell/PersonMenu.svelte'
  import Rail from '$lib/components/shell/Rail.svelte'
  import WindowPicker from '$lib/components/shell/WindowPicker.svelte'
  import type { LayoutProps } from './$types'

  let { data, children }: LayoutProps = $props()

  // Measures of the site are known before anything is drawn, and again when they change. The server knows them itself.
  if (browser) untrack(() => setOwnMeasures(data.measures))
  // So is the scale of temperatures; the server asks each request for it.
  if (browser) readTemperaturesIn(() => data.user.temperatures)
  $effect.pre(() => setOwnMeasures(data.measures))
  const live = provideLive(new Live(untrack(() => data.shell.nowMs)))
  let findInput = $state<HTMLElement | null>(null)
  let areKeysShown = $state(false)

  const screens = $derived(SCREENS.filter(({ least }) => mayDo(data.user.role, least)))
  const blades = $derived(
    screens.map(({ name, href, lamp, group }) => ({
      name,
      href,
      group,
      lamp: lamp === null ? null : data.shell.lamps[lamp],
    })),
  )
  const keys: readonly (readonly [string, string])[] = $derived([
    ['/', 'find'],
    ...screens.map(({ name, key }) => [`g ${key}`, name] as const),
    ['j  k', 'along a list'],
    ['t', 'take what is focused'],
    ['f', 'unfold what follows from it'],
    ['q', 'quiet it'],
    ['?', 'these keys'],
  ])

  const shown = $derived(
    windowOf(
      {
        w: page.url.searchParams.get('w'),
        from: page.url.searchParams.get('from'),
        to: page.url.searchParams.get('to'),
      },
      live.nowMs,
    ),
  )
  const heardMs = $derived(
    live.heardMs === null ? data.shell.heard.lastMs : Math.max(live.heardMs, data.shell.heard.lastMs ?? 0),
  )
  const zone = $derived(data.shell.site.timeZone)
  const ownLabel = $derived(
    `${formatMoment(shown.fromMs, live.nowMs, zone)} – ${formatMoment(shown.toMs, live.nowMs, zone)}`,
  )

  function chooseWindow(key: string): void {
    const next = new URL(page.url)
    next.searchParams.delete('from')
    next.searchParams.delete('to')
    next.searchParams.set('w', key)
    void goto(next, { keepFocus: true, noScroll: true })
  }
  function chooseOwnWindow(fromMs: number, toMs: number): void {
    const next = new URL(page.url)
    next.searchParams.delete('w')
    next.searchParams.set('from', String(fromMs))
    next.searchParams.set('to', String(toMs))
    void goto(next, { keepFocus: true, noScroll: true })
  }
  const go = (href: string): Promise<void> => goto(href)

  /** Kept with the account, and in this browser for the first paint of the next page. */
  async function chooseTheme(theme: string): Promise<void> {
    showTheme(theme)
    await fetch('/own?/theme', {
      method: 'POST',
      headers: { accept: 'application/json', 'x-sveltekit-action': 'true' },
      body: new URLSearchParams({ theme }),
    })
  }
  // What was chosen at another browser holds here, too.
  onMount(() => {
    if ((localStorage.getItem('theme') ?? 'system') !== data.user.theme) showTheme(data.user.theme)
  })

  function showTheme(theme: string): void {
    localStorage.setItem('theme', theme)
    const isDark =
      theme === 'dark' || (theme === 'system' && matchMedia('(prefers-color-scheme: dark)').matches)
    document.documentElement.dataset['theme'] = isDark ? 'dark' : 'light'
    dispatchEvent(new Event('rack:theme'))
  }

  /** Between two refreshes: with many sources something changes all the time. */
  const PAUSE_MS = 600
  const FAILED_PAUSE_MS = 3000
  const QUIET_MS = 15_000
  let isRefreshing = false
  const stale = new Stale()
  /**
   * Asks again what has changed, and tries again for as long as that fails. Never while somebody is on the way to
   * another page: a refresh would take the place of the navigation, and the click would be lost.
   */
  async function refresh(): Promise<void> {
    if (isRefreshing) return
    isRefreshing = true
    while (navigating.to === null && !stale.isEmpty) {
      const isAsked = stale.take()
      await invalidate(({ href }) => isAsked(href))
      // Whatever was to come with the answer that failed: it is asked for again, with all that was missed.
      if (live.failed !== null) stale.add(null)
      const pauseMs = live.failed === null ? PAUSE_MS : FAILED_PAUSE_MS
      await new Promise((resolve) => setTimeout(resolve, pauseMs))
    }
    isRefreshing = false
  }
  $effect(() => {
    if (navigating.to === null) void refresh()
  })
  $effect(() => live.settle(data.shell.nowMs))
  onMount(() => {
    const fetchAnything = window.fetch
    window.fetch = keepingWhatStands(
      fetchAnything,
      () => (navigating.to === null ? addressOf(page.url) : null),
      (failure) => live.refreshed(failure),
    )
    const close = live.open()
    const forget = live.onChange((change) => {
      stale.add(keysOf(change))
      void refresh()
    })
    // Without a database nothing changes that would be heard of.
    const quiet = setInterval(() => {
      stale.add(new Set([topicKey(CLOCK)]))
      void refresh()
    }, QUIET_MS)
    const onKey = keyHandler({
      places: Object.fromEntries(screens.map(({ key, href }) => [key, href])),
      go,
      find: () => findInput?.focus(),
      help: () => {
        areKeysShown = true
      },
    })
    addEventListener('keydown', onKey)
    return () => {
      window.fetch = fetchAnything
      close()
      forget()
      clearInterval(quiet)
      removeEventListener('keydown', onKey)
    }
  })
</script>

<div
  class="grid min-h-screen grid-cols-1 content-start lg:grid-cols-[184px_minmax(0,1fr)] lg:content-stretch"
>
  <Rail {blades} path={page.url.pathname} />
  <div class="min-w-0">
    <header
      class="bg-sheet border-rule z-20 flex min-h-12 flex-wrap items-center gap-x-4 gap-y-1 border-b px-5 py-1 lg:sticky lg:top-0 lg:h-12 lg:flex-nowrap lg:py-0"
    >
      <b class="whitespace-nowrap">{data.shell.site.name}</b>
      <FindBox bind:input={findInput} find={findAnything} {go} shortcut="/" />
      <WindowPicker
        key={shown.key}
        {ownLabel}
        fromMs={shown.fromMs}
        toMs={shown.toMs}
        timeZone={zone}
        choose={chooseWindow}
        chooseOwn={chooseOwnWindow}
      />
      {#if data.shell.demo !== null}
        <span
          class="text-ink-2 ml-auto text-xs whitespace-nowrap"
          role="status"
          title="The year before the demo is laid down while it runs, the newest days first"
          >past: {data.shell.demo.done} of {data.shell.demo.of} days
        </span>
      {/if}
      <span
        class="text-ink-2 text-xs {data.shell.demo === null ? 'ml-auto' : ''} whitespace-nowrap"
        data-testid="freshness"
      >
        {#if !live.isConnected && live.failed?.isSignedOut !== true}
          <b class="text-blind">not live, connecting again</b>
        {:else if live.failed !== null}
          <b class="text-blind" title={live.failed.message}>
            {#if live.failed.isSignedOut}
              signed out: <Link href="/sign-in" target="_blank">sign in again</Link>,
            {:else if live.failed.isAway}
              the database is away:
            {:else}
              cannot be brought up to date:
            {/if}
            what you see is as of {formatMoment(live.failed.sinceMs, live.nowMs, zone)}
          </b>
        {:else if data.shell.heard.sources === 0}
          no source yet
        {:else}
          heard {formatAgo(heardMs, live.nowMs)}
          {#if data.shell.heard.silent > 0}
            · <a href="/sources" class="text-blind font-bold"
              >{data.shell.heard.silent} of {data.shell.heard.sources} sources silent</a
            >
          {:else}
            · {data.shell.heard.sources} sources
          {/if}
        {/if}
      </span>
      <PersonMenu
        name={data.user.name}
        role={data.user.role}
        setTheme={(theme) => void chooseTheme(theme)}
        showKeys={() => {
          areKeysShown = true
        }}
      />
    </header>
    <CallStrip
      isShown={page.url.pathname !== '/'}
      calls={data.shell.calls}
      mayTake={data.user.role !== 'see'}
    />
    <main class="grid gap-3.5 px-5 py-4 max-lg:grid-cols-1 max-lg:overflow-x-auto">
      {@render children()}
    </main>
  </div>
</div>
{#if toasts.isWanted}
  {#await import('$lib/components/ui/Toaster.svelte') then { default: Toaster }}<Toaster />{/await}
{/if}
<KeysDialog bind:isOpen={areKeysShown} {keys} />
