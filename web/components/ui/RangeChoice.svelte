<script lang="ts">
  import { CalendarDateTime, fromAbsolute, toCalendarDate, toZoned } from '@internationalized/date'
  import { type DateRange, RangeCalendar } from 'bits-ui'
  import { untrack } from 'svelte'
  import { CALENDAR } from './calendar'
  import Button from './Button.svelte'
  import Input from './Input.svelte'

  /** Two moments of a time zone: two days of a calendar, and a time of day for each. */
  let {
    fromMs,
    toMs,
    timeZone,
    choose,
  }: { fromMs: number; toMs: number; timeZone: string; choose: (fromMs: number, toMs: number) => void } =
    $props()
  const two = (number: number): string => String(number).padStart(2, '0')
  const [from, to] = untrack(() => [fromAbsolute(fromMs, timeZone), fromAbsolute(toMs, timeZone)])
  let range = $state<DateRange>({ start: toCalendarDate(from), end: toCalendarDate(to) })
  let fromTime = $state(`${two(from.hour)}:${two(from.minute)}`)
  let toTime = $state(`${two(to.hour)}:${two(to.minute)}`)
  let problem = $state<string | null>(null)

  function momentOf(date: DateRange['start'], time: string): number | null {
    const [, hour, minute] = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(time.trim()) ?? []
    if (date === undefined || hour === undefined || minute === undefined) return null
    const local = new CalendarDateTime(date.year, date.month, date.day, Number(hour), Number(minute))
    return toZoned(local, timeZone).toDate().getTime()
  }
  function apply(): void {
    const start = momentOf(range.start, fromTime)
    const end = momentOf(range.end, toTime)
    problem =
      start === null || end === null
        ? 'Choose two days, and write times as 14:30.'
        : end <= start
          ? 'The end must be after the start.'
          : end - start > 366 * 86_400_000
            ? 'A span is at most a year long.'
            : null
    if (problem !== null || start === null || end === null) return
    choose(start, end)
  }
</script>

<div class="grid content-start gap-2">
  <RangeCalendar.Root bind:value={range} weekStartsOn={1} locale="en-GB" fixedWeeks>
    {#snippet children({ months, weekdays })}
      <RangeCalendar.Header class={CALENDAR.head}>
        <RangeCalendar.PrevButton class={CALENDAR.turn} aria-label="Month before">‹</RangeCalendar.PrevButton>
        <RangeCalendar.Heading class={CALENDAR.heading} />
        <RangeCalendar.NextButton class={CALENDAR.turn} aria-label="Month after">›</RangeCalendar.NextButton>
      </RangeCalendar.Header>
      {#each months as month (month.value.toString())}
        <RangeCalendar.Grid>
          <RangeCalendar.GridHead>
            <RangeCalendar.GridRow class="flex">
              {#each weekdays as day, index (index)}<RangeCalendar.HeadCell class={CALENDAR.headCell}
                  >{day.slice(0, 2)}</RangeCalendar.HeadCell
                >{/each}
            </RangeCalendar.GridRow>
          </RangeCalendar.GridHead>
          <RangeCalendar.GridBody>
            {#each month.weeks as week, index (index)}
              <RangeCalendar.GridRow class="flex">
                {#each week as date (date.toString())}
                  <RangeCalendar.Cell {date} month={month.value}
                    ><RangeCalendar.Day class={CALENDAR.day} /></RangeCalendar.Cell
                  >
                {/each}
              </RangeCalendar.GridRow>
            {/each}
          </RangeCalendar.GridBody>
        </RangeCalendar.Grid>
      {/each}
    {/snippet}
  </RangeCalendar.Root>
  <div class="flex items-end gap-2">
    <Input label="From (time)" class="w-16" bind:value={fromTime} />
    <Input label="To (time)" class="w-16" bind:value={toTime} />
    <Button look="strong" type="button" onclick={apply}>Apply</Button>
  </div>
  <p class="text-ink-3 text-xs">Times of {timeZone}.</p>
  {#if problem !== null}<p class="text-crit text-xs" role="alert">{problem}</p>{/if}
</div>
