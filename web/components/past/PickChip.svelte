<script lang="ts">
  import { measureKeys, measureOf, type MeasureKey } from '#core/catalogue'
  import { type Against, type Pick, readPick, type Together, type Per, writePick } from '#core/past'
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Combobox from '../ui/Combobox.svelte'
  import Popover from '../ui/Popover.svelte'
  import Select from '../ui/Select.svelte'

  /** One pick: what it is, what is made of it, and a way to be rid of it. */
  let {
    pick: text,
    words,
    count,
    others = [],
    change,
  }: {
    pick: string
    words: string
    count: number
    /** The other picks of the screen: what this one may be compared with. */
    others?: readonly { readonly pick: string; readonly words: string }[]
    /** With `null` it goes. */
    change: (next: string | null) => void
  } = $props()
  const pick = $derived(readPick(text))
  const TOGETHER: readonly (readonly [Together, string])[] = [
    ['each', 'each for itself'],
    ['sum', 'the sum'],
    ['mean', 'the mean'],
    ['max', 'the highest'],
    ['min', 'the lowest'],
  ]
  const PER: readonly (readonly [Per, string])[] = [
    ['all', 'of all'],
    ['gear', 'of each gear'],
    ['rack', 'of each rack'],
    ['room', 'of each room'],
    ['cluster', 'of each cluster'],
    ['tag', 'of each tag'],
  ]
  const optionsOf = (all: readonly (readonly [string, string])[]) =>
    all.map(([value, label]) => ({ value, label }))
  const set = (of: Pick, next: Partial<Pick>): void => change(writePick({ ...of, ...next }))
  /** What it can be compared with: readings of the same kind. */
  const beside = (of: Pick): MeasureKey[] =>
    measureKeys().filter((key) => key !== of.measure && measureOf(key).group === measureOf(of.measure).group)

  /** The others that are measured in what this is measured in, each with how it would stand in the pick. */
  const elsewhere = $derived(
    typeof pick === 'string'
      ? []
      : others.flatMap(({ pick: other, words: said }) => {
          const read = readPick(other)
          if (typeof read === 'string' || read.against !== null) return []
          if (measureOf(read.measure).unit !== measureOf(pick.measure).unit) return []
          const { measure, scope, value, role } = read
          return [{ said, measure, from: { scope, value, role } }]
        }),
  )
  type Elsewhere = NonNullable<Against['from']>
  const isSame = (a: Elsewhere, b: Elsewhere): boolean =>
    a.scope === b.scope && a.value === b.value && a.role === b.role
  /** As it is chosen: how, and with which of the others. */
  const chosen = $derived.by(() => {
    if (typeof pick === 'string' || pick.against === null) return ''
    const { how, measure, from } = pick.against
    if (from === null) return how
    const at = elsewhere.findIndex((each) => each.measure === measure && isSame(each.from, from))
    return at === -1 ? `${how} kept` : `${how} ${at}`
  })
  const COMPARED = [
    ['less', 'less'],
    ['by', 'divided by'],
  ] as const
  function compare(of: Pick, choice: string): void {
    const [how, at] = choice.split(' ')
    if (choice === '') return set(of, { against: null })
    if (at === 'kept') return
    const other = at === undefined ? undefined : elsewhere[Number(at)]
    const measure = other?.measure ?? beside(of).find((key) => key === of.against?.measure) ?? beside(of)[0]
    set(of, {
      against: { how: how as 'less' | 'by', measure: measure ?? of.measure, from: other?.from ?? null },
    })
  }
</script>

<span
  class="border-rule bg-sheet inline-flex items-center gap-1.5 border py-0.5 pr-1 pl-2"
  data-testid="pick"
>
  {#if typeof pick === 'string'}
    {words}
  {:else}
    <Popover label="What is made of {words}" class="hover:text-accent cursor-pointer text-left">
      {#snippet trigger()}<b class="font-[640]">{words}</b>
        <span class="text-ink-2 text-xs">{count} ▾</span>{/snippet}
      <div class="grid w-72 gap-2.5">
        <Select
          label="Show"
          value={pick.together}
          options={optionsOf(TOGETHER)}
          onchange={(next) => set(pick, { together: next as Together })}
        />
        {#if pick.together !== 'each'}
          <Select
            label="Put together"
            value={pick.per}
            options={optionsOf(PER)}
            onchange={(next) => set(pick, { per: next as Per })}
          />
        {/if}
        <Select
          label="How many"
          value={String(pick.busiest ?? '')}
          options={optionsOf([
            ['', 'all of them'],
            ['5', 'the 5 busiest'],
            ['10', 'the 10 busiest'],
            ['12', 'the 12 busiest'],
            ['50', 'the 50 busiest'],
          ])}
          onchange={(next) => set(pick, { busiest: next === '' ? null : Number(next) })}
        />
        <Select
          label="Compared"
          value={chosen}
          options={optionsOf([
            ['', 'by itself'],
            ['less', 'less another measure'],
            ['by', 'divided by another measure'],
            ...COMPARED.flatMap(([how, label]) =>
              elsewhere.map(({ said }, at) => [`${how} ${at}`, `${label} the mean: ${said}`] as const),
            ),
            ...(chosen.endsWith('kept') ? [[chosen, 'with what is no pick any more'] as const] : []),
          ])}
          onchange={(next) => compare(pick, next)}
        />
        {#if pick.against !== null && pick.against.from === null}
          <Combobox
            label="Other measure"
            value={pick.against.measure}
            options={beside(pick).map((key) => ({ value: key, label: measureOf(key).label }))}
            onchange={(next) =>
              set(pick, { against: { how: pick.against!.how, measure: next as MeasureKey, from: null } })}
          />
        {/if}
        <label class="flex items-center gap-1.5">
          <Checkbox defaultChecked={pick.isRate} onchange={() => set(pick, { isRate: !pick.isRate })} /> how fast
          it grows, a second
        </label>
      </div>
    </Popover>
  {/if}
  <Button look="link" aria-label="Take {words} away" onclick={() => change(null)}>×</Button>
</span>
