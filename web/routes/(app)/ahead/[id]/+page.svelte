<script lang="ts">
  import { measureOf } from '#core/catalogue'
  import { amountIn } from '#core/forecast'
  import { formatAgo, formatDate } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import AheadChart from '$lib/components/forecast/AheadChart.svelte'
  import DrivesIt from '$lib/components/forecast/DrivesIt.svelte'
  import Proofs from '$lib/components/forecast/Proofs.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import DateTimeInput from '$lib/components/ui/DateTimeInput.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Table from '$lib/components/ui/Table.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const row = $derived(data.row)
  const body = $derived(data.body)
  const amount = $derived(amountIn(measureOf(body.measure).unit))
  /** What stands where there is no date. */
  const never = $derived(row.verdict === 'too-little' ? 'too early to say' : 'not within two years')
  /** A date; its year where it is not near. */
  const day = (ms: number | null): string =>
    ms === null
      ? never
      : Math.abs(ms - live.nowMs) < 160 * 86_400_000
        ? formatDate(ms, timeZone).replace(/ \d{4}$/, '')
        : formatDate(ms, timeZone)

  /** What only grows older has a date and no band. */
  const isSure = $derived(row.earlyMs !== null && row.earlyMs === row.lateMs)
  const headline = $derived.by(() => {
    if (row.verdict === 'too-little') return `${row.name}: too early to say.`
    if (row.verdict === 'over') return `${row.name} is at its line already: ${row.line}.`
    if (row.verdict === 'not-in-sight')
      return `${row.name} does not reach its line (${row.line}) within two years.`
    const order =
      row.orderByMs === null ? '' : ` Order by ${day(row.orderByMs)}: it takes ${row.leadDays} days.`
    const band = isSure ? '' : `, between ${day(row.earlyMs)} and ${day(row.lateMs)}`
    return `${row.name} reaches its line (${row.line}) on ${day(row.runOutMs)}${band}.${order}`
  })
  const steps = $derived(body.seen.filter((each) => each.what === 'step'))
  const saidOf = (atMs: number) => data.marks.filter((mark) => Math.abs(mark.atMs - atMs) < 43_200_000)
  const inTwoWeeks = $derived(
    new Date(live.nowMs + Math.max(1, row.leadDays) * 86_400_000).toISOString().slice(0, 16),
  )
</script>

<svelte:head><title>{row.name} · Ahead · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{headline}</h1>
<p class="text-ink-2 -mt-2 text-xs">
  {body.sentence}
  <Link href="/gear/{data.gearId}">Open {row.name}</Link> ·
  <Link href="/alerts/rules/new?series={row.id}">set another line</Link> ·
  <Link href="/past?s={row.id}&w=1y">look back</Link> · forecast {formatAgo(data.madeMs, live.nowMs)}
</p>

<Panel
  title={measureOf(body.measure).label}
  note={isSure ? 'by the calendar' : 'worst value of each day · path and band of 80 %'}
  aria-label="History and forecast"
>
  <AheadChart
    past={data.past}
    {body}
    nowMs={data.shell.nowMs}
    madeMs={data.madeMs}
    runOutMs={row.runOutMs}
    {timeZone}
    spoken={headline}
  />
</Panel>

<div
  class={[
    'grid grid-cols-1 items-start gap-3.5',
    data.drivers === null ? 'lg:grid-cols-2' : 'lg:grid-cols-3',
  ]}
>
  <div class="grid gap-3.5">
    {#if !isSure || body.others.length > 0}
      <Panel title="What if" note="nothing is saved">
        <Table>
          <tbody>
            <tr
              ><td>{isSure ? 'As it is' : 'Growth goes on as now'}</td><td class="text-right font-semibold"
                >{day(row.runOutMs)}</td
              ></tr
            >
            {#each body.whatIf as { growth, atMs } (growth)}
              <tr
                ><td>Growth {growth < 1 ? 'halves' : 'doubles'}</td><td class="text-right">{day(atMs)}</td
                ></tr
              >
            {/each}
            {#each body.others as { line, atMs } (line.words)}
              <tr><td>Line at {line.words}</td><td class="text-right">{day(atMs)}</td></tr>
            {/each}
          </tbody>
        </Table>
      </Panel>
    {/if}
    {#if steps.length > 0}
      <Panel title="Jumps" note="a jump counts as a one-off unless somebody says otherwise">
        {#each steps as step (step.atMs)}
          {@const said = saidOf(step.atMs)}
          <div class="border-rule-2 border-t py-1.5 first:border-t-0" data-testid="jump">
            <p>
              {step.size > 0 ? '+' : '−'}{amount(Math.abs(step.size))} on {day(step.atMs)}
              {#each said as mark (mark.by)}
                <span class="text-ink-2 text-xs"
                  >{mark.by}: {mark.as === 'growth' ? 'growth' : 'a one-off'}</span
                >
              {/each}
            </p>
            {#if data.mayOperate}
              <Form action="?/mark" class="mt-1 flex gap-2">
                <input type="hidden" name="atMs" value={Math.round(step.atMs)} />
                <Button name="as" value="growth">Count as growth</Button>
                <Button name="as" value="one-off">One-off</Button>
              </Form>
            {/if}
          </div>
        {/each}
      </Panel>
    {/if}
  </div>
  <div class="grid gap-3.5">
    <Panel title="Orders" note="an order stops the reminder until it should be there">
      {#if row.order !== null}
        <p>
          <b class="font-[640]">{row.order.words}</b>, expected {day(Date.parse(row.order.expectedOn))}
          <span class="text-ink-2 text-xs">noted by {row.order.by}</span>
        </p>
        {#if data.mayOperate}
          <Form action="?/endOrder" class="mt-1">
            <input type="hidden" name="id" value={row.order.id} />
            <Button>Remove order</Button>
          </Form>
        {/if}
      {:else if data.mayOperate}
        {#if form !== null && 'message' in form && form.message}<p class="text-crit mb-2" role="alert">
            {form.message}
          </p>{/if}
        <Form action="?/order" class="grid gap-2">
          <Input label="Order" name="words" required maxlength="200" placeholder="Two drives, order 4711" />
          <DateTimeInput label="Expected on" name="expectedOn" defaultValue={inTwoWeeks} />
          <Button look="strong" class="justify-self-start">Save order</Button>
        </Form>
      {:else}<p class="text-ink-2 text-xs">No order noted.</p>{/if}
    </Panel>
    <Proofs proofs={body.proofs} {amount} {timeZone} />
  </div>
  {#if data.drivers !== null}<DrivesIt drivers={data.drivers} {day} />{/if}
</div>
