<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { formatMoment, formatNumber } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import SettingsTabs from '$lib/components/shell/SettingsTabs.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const zone = $derived(data.shell.site.timeZone)

  const number = (count: number, one: string, many: string): string =>
    `${formatNumber(count, 0)} ${count === 1 ? one : many}`
  const sentence = $derived.by(() => {
    const { changes, signIns, refused } = data.counts
    return `${number(changes, 'change', 'changes')} and ${number(signIns, 'sign-in', 'sign-ins')} in this window; ${
      refused === 0 ? 'nobody was refused anything' : `${number(refused, 'try', 'tries')} refused`
    }.`
  })
  const CHOICES = [
    [null, null, 'all'],
    ['change', null, 'changes'],
    ['sign-in', null, 'sign-ins'],
    [null, 'refused', 'refused'],
  ] as const

  function address(changes: Readonly<Record<string, string | null>>): string {
    const next = new URL(page.url)
    next.searchParams.delete('before')
    for (const [name, value] of Object.entries(changes))
      if (value === null || value === '') next.searchParams.delete(name)
      else next.searchParams.set(name, value)
    return next.pathname + next.search
  }
  const file = (as: string): string => {
    const next = new URL(page.url)
    next.searchParams.delete('before')
    next.searchParams.set('as', as)
    return `/settings/record/file${next.search}`
  }
  let timer: ReturnType<typeof setTimeout> | undefined
  function search(words: string): void {
    clearTimeout(timer)
    timer = setTimeout(() => void goto(address({ q: words }), { replaceState: true, keepFocus: true }), 250)
  }
  const nameAt = $derived(data.publicKey.split('\n').slice(1, -2).join(''))
</script>

<svelte:head><title>Audit record · {data.shell.site.name}</title></svelte:head>

<SettingsTabs />
<h1>{sentence}</h1>

<div class="flex flex-wrap items-center gap-x-4 gap-y-2">
  <Input
    class="w-72"
    type="search"
    placeholder="Who, what, from where, a value"
    aria-label="Only lines with these words"
    defaultValue={data.filter.words}
    oninput={(event) => search(event.currentTarget.value)}
  />
  <nav class="flex gap-3" aria-label="Kind">
    {#each CHOICES as [kind, outcome, word] (word)}
      <a
        href={address({ kind, outcome })}
        aria-current={data.filter.kind === kind && data.filter.outcome === outcome ? 'true' : undefined}
        class="text-ink-2 aria-[current]:text-ink aria-[current]:border-ink border-b-2 border-transparent hover:underline aria-[current]:font-[620]"
        >{word}</a
      >
    {/each}
  </nav>
  <span class="text-ink-2 ml-auto text-xs">
    export <Link href={file('csv')} download>CSV</Link>,
    <Link href={file('jsonl')} download>signed JSON lines</Link>
  </span>
</div>

<Panel aria-label="Record">
  <Table>
    <thead>
      <tr><th class="w-28">When</th><th class="w-40">Who</th><th class="w-32">From</th><th>What</th></tr>
    </thead>
    <tbody>
      {#each data.lines as line (line.id)}
        <tr data-testid="record-line">
          <td class="text-ink-2 align-top text-xs whitespace-nowrap"
            >{formatMoment(line.atMs, live.nowMs, zone)}</td
          >
          <td class="align-top font-[640]">{line.who}</td>
          <td class="align-top font-mono text-[11px]">{line.address ?? ''}</td>
          <td>
            <span class={line.outcome === 'refused' ? 'text-warn font-[620]' : ''}>{line.what}</span>
            {#if line.differs.length > 0}
              <details>
                <summary class="text-ink-2 cursor-pointer text-xs"
                  >{number(line.differs.length + line.more, 'difference', 'differences')}</summary
                >
                <ul class="mt-1 font-mono text-[11px] break-words">
                  {#each line.differs as difference, index (index)}<li>{difference}</li>{/each}
                  {#if line.more > 0}<li class="text-ink-2 text-xs">
                      and {line.more} more; the file has all
                    </li>{/if}
                </ul>
              </details>
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </Table>
  {#if data.lines.length === 0}<p class="text-ink-2 py-3 text-xs">Nothing in this window fits.</p>{/if}
  {#if data.nextId !== null}
    <p class="mt-2"><Link href={address({ before: String(data.nextId) })}>Older ones</Link></p>
  {/if}
</Panel>
<p class="text-ink-2 text-xs">
  Lines are only added; nothing here changes or takes away one. The last line of the signed file holds an
  Ed25519 signature of all before it, for the key <span class="font-mono text-[11px] break-all">{nameAt}</span
  >.
</p>
