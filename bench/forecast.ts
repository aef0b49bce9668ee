// How right forecasts are: histories with known futures, ours against simple methods, in one run; and how long they take.
// `node --import tsx bench/forecast.ts [CASES of each family] [--families]`
import { forecast } from '#core/forecast'
import { normal, uniform } from '../core/forecast/random.ts'
import { type Case, DAY_MS, familyNames, makeCase } from './forecast/families.ts'
import { type Dates, RIVALS } from './forecast/rivals.ts'

const MOST = 180
const perFamily = Number(process.argv[2] ?? 8)
const isLong = process.argv.includes('--families')

const next = uniform(20_261_127)
const dice = { next, normal: normal(next) }
const cases: Case[] = familyNames.flatMap((family) =>
  Array.from({ length: perFamily }, () => makeCase(family, dice)),
)

interface Told {
  readonly dates: Dates
  readonly verdict: string
  readonly ms: number
}

function ours({ input }: Case): Told {
  const began = performance.now()
  const { verdict, p10Ms, p50Ms, p90Ms } = forecast(input)
  const days = (ms: number | null): number => (ms === null ? Infinity : (ms - input.nowMs) / DAY_MS)
  return { dates: [days(p10Ms), days(p50Ms), days(p90Ms)], verdict, ms: performance.now() - began }
}

const cap = (days: number): number => Math.min(MOST, Math.max(0, days))
/** Mean over three quantiles, in days (Koenker and Bassett, 1978). */
function pinball([low, middle, high]: Dates, truth: number): number {
  const part = (share: number, said: number): number => {
    const off = cap(truth) - cap(said)
    return off >= 0 ? share * off : (share - 1) * off
  }
  return (part(0.1, low) + part(0.5, middle) + part(0.9, high)) / 3
}

const mean = (all: readonly number[]): number => all.reduce((sum, each) => sum + each, 0) / (all.length || 1)
const median = (all: readonly number[]): number =>
  [...all].sort((a, b) => a - b)[Math.floor(all.length / 2)] ?? NaN

function isRight({ truthDays, isShort }: Case, verdict: string): boolean {
  if (isShort) return verdict === 'too-little'
  if (verdict === 'over') return truthDays <= 2
  // About the horizon itself either is right.
  if (truthDays > 150 && truthDays < 215) return verdict === 'crosses' || verdict === 'not-in-sight'
  return verdict === (truthDays <= MOST ? 'crosses' : 'not-in-sight')
}

function row(name: string, told: readonly Told[], some: readonly Case[]): string {
  const judged = some.map((each, index) => ({ each, told: told[index]! })).filter(({ each }) => !each.isShort)
  const balls = judged.map(({ each, told: { dates } }) => pinball(dates, each.truthDays))
  const errors = judged
    .filter(({ each }) => each.truthDays <= MOST)
    .map(({ each, told: { dates } }) => Math.abs(cap(dates[1]) - each.truthDays))
  const within = judged.filter(({ each }) => each.truthDays <= MOST)
  const covered = within.filter(
    ({ each, told: { dates } }) =>
      cap(dates[0]) <= each.truthDays + 0.5 && cap(dates[2]) >= each.truthDays - 0.5,
  )
  const width = within.map(({ told: { dates } }) => cap(dates[2]) - cap(dates[0]))
  const false90 = judged.filter(({ each, told: { dates } }) => each.truthDays > 120 && dates[1] < 90)
  const missed90 = judged.filter(({ each, told: { dates } }) => each.truthDays < 60 && dates[1] > 90)
  return `${name.padEnd(34)} ${mean(balls).toFixed(2).padStart(7)} ${median(errors).toFixed(1).padStart(7)} ${String(false90.length).padStart(6)} ${String(missed90.length).padStart(6)} ${((100 * covered.length) / (within.length || 1)).toFixed(0).padStart(6)} % ${median(width).toFixed(1).padStart(7)}`
}

const told = cases.map(ours)
const right = cases.filter((each, index) => isRight(each, told[index]!.verdict)).length
console.log(`${cases.length} histories of ${familyNames.length} families`)
console.log(`${''.padEnd(34)} pinball  median  false missed covered   width`)
console.log(row('ours', told, cases))
const balls: Record<string, number> = {}
const ballOf = (some: readonly Told[]): number =>
  mean(cases.flatMap((each, index) => (each.isShort ? [] : [pinball(some[index]!.dates, each.truthDays)])))
for (const [name, rival] of Object.entries(RIVALS)) {
  const theirs = cases.map(({ input }) => ({ dates: rival(input), verdict: '', ms: 0 }))
  balls[name] = ballOf(theirs)
  console.log(row(name, theirs, cases))
}
const own = ballOf(told)
const [toHolt, toLine] = [
  own / balls['Holt’s linear method']!,
  own / balls['straight line through everything']!,
]
const late = cases.filter(
  ({ truthDays, isShort }, index) => !isShort && truthDays <= 30 && told[index]!.dates[1] > 45,
)
console.log(`verdicts right ${((100 * right) / cases.length).toFixed(1)} % (limit 96)`)
console.log(
  `pinball against Holt’s ${toHolt.toFixed(2)} (limit 0.55), against the straight line ${toLine.toFixed(2)} (limit 0.25)`,
)
console.log(
  `within 30 days and said later than 45: ${late.length} (limit 0)${late.map(({ family }) => ` ${family}`).join('')}`,
)
const times = told.map(({ ms }) => ms)
console.log(`time: median ${median(times).toFixed(0)} ms, worst ${Math.max(...times).toFixed(0)} ms`)
if (isLong)
  for (const family of familyNames) {
    const own = cases
      .map((each, index) => ({ each, told: told[index]! }))
      .filter(({ each }) => each.family === family)
    const wrong = own.filter(({ each, told: { verdict } }) => !isRight(each, verdict))
    console.log(
      row(
        family,
        own.map((one) => one.told),
        own.map((one) => one.each),
      ),
      `${wrong.length} wrong${wrong.map(({ each, told: one }) => ` ${cap(each.truthDays).toFixed(0)}:${one.verdict}`).join('')}  ${median(own.map((one) => one.told.ms)).toFixed(0)} ms`,
    )
  }
