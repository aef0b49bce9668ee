<script lang="ts">
  import { type CalendarDateTime, parseDateTime } from '@internationalized/date'
  import { DatePicker } from 'bits-ui'
  import { untrack } from 'svelte'
  import { CALENDAR } from './calendar'
  import Field, { type FieldProps } from './Field.svelte'
  import Hidden from './Hidden.svelte'
  import { Standing } from './standing.svelte'
  import { FIELD, MENU } from './looks'

  /** A moment of the site's time zone, as `2026-11-27T10:41`; empty when none is given. */
  let {
    value = $bindable(),
    defaultValue,
    label,
    help,
    error,
    name,
    required = false,
    onchange,
  }: FieldProps & {
    value?: string
    defaultValue?: string
    name?: string
    required?: boolean
    onchange?: (value: string) => void
  } = $props()
  const standing = new Standing<string>(
    untrack(() => value ?? defaultValue ?? ''),
    () => defaultValue,
    { get: () => value, put: (next) => (value = next) },
  )
  let hidden = $state<Hidden>()
  const moment = $derived(value === undefined || value === '' ? undefined : parseDateTime(value.slice(0, 16)))

  function choose(next: CalendarDateTime | undefined): void {
    const text = next === undefined ? '' : next.toString().slice(0, 16)
    if (text === value) return
    value = text
    onchange?.(text)
    void hidden?.changed()
  }
</script>

<Field {label} {help} {error} {name} {required}>
  {#snippet children(given)}
    <DatePicker.Root
      bind:value={() => moment, (next) => choose(next as CalendarDateTime | undefined)}
      granularity="minute"
      hourCycle={24}
      locale="en-GB"
      weekStartsOn={1}
      fixedWeeks
    >
      <DatePicker.Input
        {...given}
        aria-label={label}
        data-field={name}
        data-value={value}
        class={[FIELD, 'flex items-center']}
      >
        {#snippet children({ segments })}
          {#each segments as { part, value: text }, index (`${part} ${index}`)}
            <DatePicker.Segment
              {part}
              class={part === 'literal'
                ? 'text-ink-3'
                : 'focus:bg-accent-soft aria-[valuetext=Empty]:text-ink-3 px-px outline-none'}
              >{text}</DatePicker.Segment
            >
          {/each}
          <DatePicker.Trigger class="text-ink-3 ml-2" aria-label="Open the calendar">▾</DatePicker.Trigger>
        {/snippet}
      </DatePicker.Input>
      <DatePicker.Content class={[MENU, 'p-3']} sideOffset={4}>
        <DatePicker.Calendar>
          {#snippet children({ months, weekdays })}
            <DatePicker.Header class={CALENDAR.head}>
              <DatePicker.PrevButton class={CALENDAR.turn} aria-label="Month before">‹</DatePicker.PrevButton>
              <DatePicker.Heading class={CALENDAR.heading} />
              <DatePicker.NextButton class={CALENDAR.turn} aria-label="Month after">›</DatePicker.NextButton>
            </DatePicker.Header>
            {#each months as month (month.value.toString())}
              <DatePicker.Grid>
                <DatePicker.GridHead>
                  <DatePicker.GridRow class="flex">
                    {#each weekdays as day, index (index)}<DatePicker.HeadCell class={CALENDAR.headCell}
                        >{day.slice(0, 2)}</DatePicker.HeadCell
                      >{/each}
                  </DatePicker.GridRow>
                </DatePicker.GridHead>
                <DatePicker.GridBody>
                  {#each month.weeks as week, index (index)}
                    <DatePicker.GridRow class="flex">
                      {#each week as date (date.toString())}
                        <DatePicker.Cell {date} month={month.value}
                          ><DatePicker.Day class={CALENDAR.day} /></DatePicker.Cell
                        >
                      {/each}
                    </DatePicker.GridRow>
                  {/each}
                </DatePicker.GridBody>
              </DatePicker.Grid>
            {/each}
          {/snippet}
        </DatePicker.Calendar>
      </DatePicker.Content>
    </DatePicker.Root>
    <Hidden {name} value={value ?? ''} bind:this={hidden} reset={() => (value = standing.value)} />
  {/snippet}
</Field>
