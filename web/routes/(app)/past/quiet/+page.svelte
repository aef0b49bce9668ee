<script lang="ts">
  import { page } from '$app/state'
  import { sureWords, windowWords } from '#core/past'
  import { show } from '$lib/client/picked'
  import { findPicks } from '$lib/client/requests'
  import PastTabs from '$lib/components/past/PastTabs.svelte'
  import PickChip from '$lib/components/past/PickChip.svelte'
  import WeekHeat from '$lib/components/past/WeekHeat.svelte'
  import FindBox from '$lib/components/shell/FindBox.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Notice from '$lib/components/ui/Notice.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const percent = (share: number): string => `${Math.round(share * 100)} %`
  function changePick(index: number, text: string | null): void {
    const all = data.picks.map(({ pick }) => pick)
    show((query) => {
      query.delete('p')
      all.forEach((each, at) => {
        const next = at === index ? text : each
        if (next !== null) query.append('p', next)
      })
    })
  }
  const file = $derived(
    (hour: number): string =>
      `/past/quiet/file${page.url.search}${page.url.search === '' ? '?' : '&'}hour=${hour}`,
  )
  const curves = $derived(
    `/past?${data.picks.map(({ pick }) => `p=${encodeURIComponent(pick)}`).join('&')}&w=7d`,
  )
  const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
  const daysWords = (days: readonly number[]): string =>
    days.length === 7
      ? 'every day'
      : days.join(',') === '0,1,2,3,4'
        ? 'Monday to Friday'
        : days.map((day) => DAYS[day]!).join(', ')
  const clock = (minute: number): string =>
    `${String(Math.floor(minute / 60) % 24).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
  const LENGTHS = [1, 2, 3, 4, 6, 8, 12].map((hours) => ({
    value: String(hours),
    label: hours === 1 ? '1 hour' : `${hours} hours`,
  }))
  const WEEKS = [1, 2, 4, 8, 13, 26].map((weeks) => ({
    value: String(weeks),
    label: weeks === 1 ? 'the last week' : `the last ${weeks} weeks`,
  }))
</script>

<svelte:head><title>Quiet hours · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{data.sentence}</h1>
<PastTabs />
<div class="mb-3 flex flex-wrap items-center gap-2">
  {#each data.picks as { pick, words, count }, index (index)}
    <PickChip {pick} {words} {count} change={(next) => changePick(index, next)} />
  {/each}
  <FindBox
    find={findPicks}
    go={(pick) => show((query) => query.append('p', pick))}
    placeholder="Add what is to be low: processor use north, received…"
    label="Add what is to be low"
    class="max-w-72 grow"
  />
  <Select
    aria-label="How often"
    class="w-32"
    value={data.every}
    options={[
      { value: 'day', label: 'every day' },
      { value: 'week', label: 'once a week' },
    ]}
    onchange={(every) => show((query) => query.set('every', every))}
  />
  <Select
    aria-label="Length of the window"
    class="w-28"
    value={String(data.lengthHours)}
    options={LENGTHS}
    onchange={(len) => show((query) => query.set('len', len))}
  />
  <Select
    aria-label="Weeks that are looked at"
    class="w-40"
    value={String(data.weeks)}
    options={WEEKS}
    onchange={(weeks) => show((query) => query.set('weeks', weeks))}
  />
</div>
{#each data.problems as problem (problem)}<Notice kind="problem" class="mb-2">{problem}</Notice>{/each}
{#if data.members === 0}
  <Panel title="When is there room for a backup?" id="begin">
    <p class="text-ink-2 mb-2">
      Name what must be low at the same time, and for how long. A window is quiet when the busiest of them is
      far from its peak, week after week. Often asked:
    </p>
    <ul class="grid gap-1">
      {#each data.often as { pick, words } (pick)}
        <li><Link href="/past/quiet?p={encodeURIComponent(pick)}">{words}</Link></li>
      {/each}
    </ul>
  </Panel>
{:else}
  <div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_340px]">
    <Panel
      title="Hours of the week"
      id="week"
      note="dark is busy; a corner where weeks differ by a quarter of the peak"
    >
      <WeekHeat
        hours={data.found.hours}
        windows={data.found.windows}
        lengthHours={data.lengthHours}
        every={data.every}
      />
      <p class="text-ink-3 mt-2 text-xs">
        {data.members}
        {data.members === 1 ? 'series' : 'series together'}, {data.found.heard} hours heard; each against the peak
        (99th percentile) of the busiest of its measure. <Link href={curves}>See the curves</Link>
      </p>
    </Panel>
    <Panel title="Best windows" id="windows">
      {#each data.found.windows as window, index (window.hour)}
        <section class="border-rule-2 border-t py-2 first:border-t-0" data-testid="window">
          <h3 class="font-[640]">{index + 1}. {windowWords(window.hour, data.lengthHours, data.every)}</h3>
          <p class="text-ink-2 text-xs">
            {percent(window.expected)} of the peak to be expected, {percent(window.worst)} at worst;
            {sureWords(window.times, data.every)}. Busiest in it: {window.busiest.name}, {percent(
              window.busiest.level,
            )}.
          </p>
          {#if window.clashes.length > 0}
            <p class="text-warn text-xs">Meets {window.clashes.join(' and ')}.</p>
          {/if}
          <Link class="text-xs" href={file(window.hour)} download>Take along as iCalendar</Link>
        </section>
      {:else}
        <p class="text-ink-2">{data.found.problem}</p>
      {/each}
    </Panel>
  </div>
{/if}
<Panel title="Known jobs" id="jobs" note="a window that meets one of them says so" class="mt-4">
  {#if form?.message}<Notice kind="problem" class="mb-2">{form.message}</Notice>{/if}
  {#if data.jobs.length > 0}
    <Table>
      <tbody>
        {#each data.jobs as job (job.id)}
          <tr data-testid="job">
            <td class="font-[640]">{job.name}</td>
            <td>{daysWords(job.days)}</td>
            <td>{clock(job.fromMinute)}–{clock(job.fromMinute + job.minutes)}</td>
            <td class="text-ink-2">noted by {job.madeBy}</td>
            <td class="text-right"
              >{#if data.mayOperate}<Form action="?/deleteJob"
                  ><input type="hidden" name="id" value={job.id} /><Button look="link">Delete</Button></Form
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </Table>
  {:else}
    <p class="text-ink-2 mb-2 text-xs">None is noted yet.</p>
  {/if}
  {#if data.mayOperate}
    <Form action="?/addJob" class="mt-2 flex flex-wrap items-end gap-2.5">
      <Input label="Job" name="name" class="w-44" placeholder="Model run" required />
      <Select
        label="Days"
        name="days"
        options={[
          { value: 'every', label: 'every day' },
          { value: 'workdays', label: 'Monday to Friday' },
          { value: 'weekend', label: 'Saturday and Sunday' },
          ...DAYS.map((label, index) => ({ value: String(index), label })),
        ]}
      />
      <Input label="From" name="from" class="w-20" placeholder="02:00" required />
      <Input label="To" name="to" class="w-20" placeholder="04:30" required />
      <Button>Note job</Button>
    </Form>
  {/if}
</Panel>
