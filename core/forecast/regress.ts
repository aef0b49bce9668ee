import type { History } from './daily.ts'
import { dot, takeFrom } from './numbers.ts'
import { Whitener } from './whiten.ts'

/** A regressor as a function of time, so that it goes on into what comes. */
export interface Term {
  readonly kind: 'trend' | 'step' | 'rate' | 'spike' | 'shape' | 'year'
  readonly at: number
  readonly valueAt: (days: number) => number
}

export type BaseName = 'flat' | 'line' | 'levelling' | 'accelerating' | 'yearly'

/** One way in which a history may have come about. */
export interface Model {
  readonly base: BaseName
  readonly terms: readonly Term[]
  /** One coefficient for each term. */
  readonly beta: Float64Array
  /** Row by row, above the diagonal: the columns as combinations of orthonormal ones. */
  readonly upper: readonly Float64Array[]
  /** Variance of one whitened error, and how many there are beyond what was fitted. */
  readonly variance: number
  readonly freedom: number
  readonly walk: number
  /** The level at the end that the terms do not explain, for the history and for each term. */
  readonly endLevel: number
  readonly endOfTerm: Float64Array
  readonly endVariance: number
  /** Bayesian information criterion (Schwarz, 1978), with what was paid for the choice of places. */
  readonly criterion: number
}

export const stepAt = (at: number): Term => ({ kind: 'step', at, valueAt: (days) => (days >= at ? 1 : 0) })
export const rateFrom = (at: number): Term => ({
  kind: 'rate',
  at,
  valueAt: (days) => Math.max(0, days - at),
})
const spikeAt = (at: number): Term => ({ kind: 'spike', at, valueAt: (days) => (days === at ? 1 : 0) })
const trend: Term = { kind: 'trend', at: -Infinity, valueAt: (days) => days }
const levelling = (since: number, tau: number): Term => ({
  kind: 'shape',
  at: since,
  valueAt: (days) => 1 - Math.exp(-(days - since) / tau),
})
/** Growth that grows: as now for another time constant, and from then on no faster. */
const accelerating = (since: number, tau: number): Term => ({
  kind: 'shape',
  at: since,
  valueAt: (days) => (days <= tau ? Math.exp(days / tau) : (Math.E * days) / tau),
})
const YEAR = 365.25
const yearly = (phase: 'sin' | 'cos'): Term => ({
  kind: 'year',
  at: -Infinity,
  valueAt: (days) => Math[phase]((2 * Math.PI * days) / YEAR),
})

const WALKS = [0, 0.003, 0.03, 0.15, 0.5, 1]
/** What a term costs in units of ln n: its coefficient, and the choice of its place. */
const PRICE = { step: 3.6, rate: 3.75, spike: 3.6 } as const
/** Nothing that is read is known better than to this share of itself. */
const KNOWN_TO = 1e-4
const MOST_TERMS = 26

interface Rival {
  readonly base: BaseName
  /** Of these sets of terms the one that leaves least is taken. */
  readonly shapes: readonly (readonly Term[])[]
}

function rivalsOf({ atDays }: History): Rival[] {
  const first = atDays[0]!
  const span = -first
  const rivals: Rival[] = [
    { base: 'flat', shapes: [[]] },
    { base: 'line', shapes: [[trend]] },
  ]
  if (atDays.length >= 25 && span >= 25) {
    const levels = [0.12, 0.15, 0.18, 0.22, 0.27, 0.33, 0.4, 0.49, 0.6, 0.73, 0.9].map((share) => [
      levelling(first, span * share),
    ])
    rivals.push({ base: 'levelling', shapes: levels })
    const grows = [0.12, 0.2, 0.33, 0.5, 0.75].map((share) => [accelerating(first, span * share)])
    rivals.push({ base: 'accelerating', shapes: grows })
  }
  const year = [yearly('sin'), yearly('cos')]
  if (span >= 500) rivals.push({ base: 'yearly', shapes: [year, [trend, ...year]] })
  return rivals
}

export interface FitOptions {
  /** Terms that are in whatever they explain: what people have said. */
  readonly forced?: readonly Term[]
  /** Up to this long ago a change of rate is dearer, in days. */
  readonly freshDays?: number
  readonly walks?: readonly number[]
  /** No rate changes after this, in days. */
  readonly ratesUntil?: number
}

/** The models that explain a history best, the best first. @param history at least three values, not all at one time */
export function fitModels(history: History, options: FitOptions = {}): Model[] {
  const rivals = rivalsOf(history)
  const places = candidatesOf(history, options).map((place) => {
    const column = history.atDays.map(place.term.valueAt)
    return { ...place, column, from: Math.max(0, column.findIndex((each) => each !== 0) - 1) }
  })
  const columns = new Map<Term, Float64Array>()
  for (const term of [...rivals.flatMap(({ shapes }) => shapes.flat()), ...(options.forced ?? [])])
    columns.set(term, history.atDays.map(term.valueAt))
  const grown = (options.walks ?? WALKS).flatMap((walk) => {
    const bench = new Bench(history, walk, options, { places, columns })
    return rivals.map((rival) => bench.fit(rival))
  })
  const best = Math.min(...grown.map(({ criterion }) => criterion))
  return grown
    .filter(({ criterion }) => criterion < best + 10)
    .sort((a, b) => a.criterion - b.criterion)
    .slice(0, MOST_MODELS)
    .map(({ model }) => model())
}

const MOST_MODELS = 8

/** A model of which is known what it is worth; the rest of it is worked out for those that are taken. */
interface Grown {
  readonly criterion: number
  readonly model: () => Model
}

/** Where something may have happened, and what it would look like. */
interface Place {
  readonly term: Term
  readonly dearer: number
  readonly column: Float64Array
  /** Before it the whitened column is zero. */
  readonly from: number
}

export interface Candidate {
  readonly term: Term
  readonly white: Float64Array
  /** Before it nothing has happened yet: zeros. */
  readonly from: number
  readonly price: number
  /** Its square, and its product with the history. */
  readonly square: number
  readonly along: number
}

/** Candidates beside the columns that are in already: of each only how long it still is, and how it lies to what is left. */
export class Pool {
  readonly #squares: Float64Array
  readonly #along: Float64Array
  /** Of each column that is in: its products with the candidates. */
  readonly #shares: Float64Array[] = []

  constructor(
    readonly candidates: readonly Candidate[],
    /** The products of a candidate, as it was whitened, with all of them. */
    readonly productsOf: (index: number) => Float64Array,
  ) {
    this.#squares = Float64Array.from(candidates, ({ square }) => square)
    this.#along = Float64Array.from(candidates, ({ along }) => along)
  }

  /** An orthonormal column has come in, and took so much of the history with it. */
  take(column: Float64Array, projected: number): void {
    const shares = new Float64Array(this.candidates.length)
    for (let index = 0; index < shares.length; index += 1) {
      const { white, from } = this.candidates[index]!
      shares[index] = dot(white, column, from)
    }
    this.#went(shares, projected)
  }

  /**
   * The same of a candidate that has come in: it is itself less its shares of the columns before it, and so are its products.
   * @param upper those shares, and the length of what was left of it
   */
  takeCandidate(candidate: number, upper: Float64Array, projected: number): void {
    const shares = this.productsOf(candidate).slice()
    const length = upper.at(-1)!
    for (let column = 0; column < upper.length - 1; column += 1)
      takeFrom(shares, upper[column]!, this.#shares[column]!)
    for (let index = 0; index < shares.length; index += 1) shares[index]! /= length
    this.#went(shares, projected)
  }

  #went(shares: Float64Array, projected: number): void {
    this.#shares.push(shares)
    for (let index = 0; index < shares.length; index += 1) {
      this.#squares[index]! -= shares[index]! * shares[index]!
      this.#along[index]! -= shares[index]! * projected
    }
  }

  /** Which is worth most beyond its price, if any is. */
  best(squares: number, floor: number): number | null {
    const rest = Math.max(squares, floor)
    let best: number | null = null
    let most = 0
    for (let index = 0; index < this.candidates.length; index += 1) {
      const candidate = this.candidates[index]!
      if (!(this.#squares[index]! > 1e-8 * candidate.square)) continue
      const gain = Math.min(this.#along[index]! ** 2 / this.#squares[index]!, rest - floor / 2)
      const worth = -candidate.white.length * Math.log1p(-gain / rest) - candidate.price
      if (worth > most) [best, most] = [index, worth]
    }
    return best
  }
}

interface Asked {
  readonly places: readonly Place[]
  /** The columns of what is in from the beginning. */
  readonly columns: ReadonlyMap<Term, Float64Array>
}

/** A history and its candidates, whitened at one share of random walk. */
class Bench {
  readonly #whitener: Whitener
  readonly #columns: ReadonlyMap<Term, Float64Array>
  readonly #rest: Float64Array
  readonly #candidates: Candidate[]
  /** Of candidates that came in: their products with all others, for whatever rival they come in again. */
  readonly #products = new Map<number, Float64Array>()
  readonly #logCount: number
  readonly #floor: number

  constructor(
    readonly history: History,
    walk: number,
    readonly options: FitOptions,
    { places, columns }: Asked,
  ) {
    this.#columns = columns
    const { atDays, values } = history
    this.#whitener = new Whitener(atDays, walk)
    this.#rest = this.#whitener.apply(values).white
    this.#logCount = Math.log(values.length)
    // Nothing is known better than this, whatever is fitted.
    let square = 0
    for (const value of values) square += value * value
    this.#floor = (square / values.length) * KNOWN_TO ** 2 + 1e-300
    this.#candidates = places.map(({ term, dearer, column, from }) => {
      const { white } = this.#whitener.apply(column, from)
      return {
        term,
        white,
        from,
        price: (PRICE[term.kind as 'step'] + dearer) * this.#logCount,
        square: dot(white, white, from),
        along: dot(white, this.#rest, from),
      }
    })
  }

  #white(term: Term): Float64Array {
    return this.#whitener.apply(this.#columns.get(term)!).white
  }

  fit({ base, shapes }: Rival): Grown {
    let paid = Infinity
    let basis: Basis | null = null
    for (const shape of shapes) {
      const tried = this.#start(shape)
      if (basis === null || this.#worth(tried) < this.#worth({ basis, paid })) ({ basis, paid } = tried)
    }
    return this.#grown(base, basis!, paid)
  }

  #start(shape: readonly Term[]): { basis: Basis; paid: number } {
    const basis = new Basis(this.#rest)
    let paid = 0
    for (const term of [...shape, ...(this.options.forced ?? [])])
      if (basis.add(term, this.#white(term))) paid += this.#logCount * (term.kind === 'shape' ? 2.2 : 1.2)
    return { basis, paid }
  }

  #worth({ basis, paid }: { basis: Basis; paid: number }): number {
    const count = this.#rest.length
    return count * Math.log(Math.max(basis.squares / count, this.#floor)) + paid
  }

  #grown(base: BaseName, basis: Basis, start: number): Grown {
    let paid = start
    const pool = new Pool(this.#candidates, (index) => this.#productsOf(index))
    basis.columns.forEach((column, index) => pool.take(column, basis.projected[index]!))
    const most = Math.min(MOST_TERMS, Math.floor(this.#rest.length / 6))
    const floor = this.#floor * this.#rest.length
    while (basis.terms.length < most) {
      const index = pool.best(basis.squares, floor)
      const best = index === null ? null : this.#candidates[index]!
      if (best === null || !basis.add(best.term, best.white)) break
      pool.takeCandidate(index!, basis.upper.at(-1)!, basis.projected.at(-1)!)
      paid += best.price
    }
    const squares = Math.max(basis.squares, floor)
    const count = this.#rest.length
    const criterion = count * Math.log(squares / count) + this.#whitener.logs + paid
    return { criterion, model: () => this.#modelOf(base, basis, criterion) }
  }

  #productsOf(candidate: number): Float64Array {
    const known = this.#products.get(candidate)
    if (known !== undefined) return known
    const { white: own, from: ownFrom } = this.#candidates[candidate]!
    const products = new Float64Array(this.#candidates.length)
    for (let index = 0; index < products.length; index += 1) {
      const { white, from } = this.#candidates[index]!
      products[index] = dot(white, own, Math.max(from, ownFrom))
    }
    this.#products.set(candidate, products)
    return products
  }

  #modelOf(base: BaseName, basis: Basis, criterion: number): Model {
    const { atDays, values } = this.history
    const count = this.#rest.length
    const freedom = Math.max(1, count - basis.terms.length)
    const squares = Math.max(basis.squares, this.#floor * count)
    const { beta, upper } = basis.solve()
    return {
      base,
      terms: basis.terms,
      beta,
      upper,
      variance: squares / freedom,
      freedom,
      walk: this.#whitener.walk,
      endLevel: this.#whitener.apply(values).end,
      endOfTerm: Float64Array.from(
        basis.terms,
        ({ valueAt }) => this.#whitener.apply(atDays.map(valueAt)).end,
      ),
      endVariance: this.#whitener.endVariance,
      criterion,
    }
  }
}

/** Columns made orthonormal one after the other, and what they leave of the history (modified Gram and Schmidt). */
export class Basis {
  readonly terms: Term[] = []
  readonly columns: Float64Array[] = []
  readonly upper: Float64Array[] = []
  readonly projected: number[] = []
  readonly #left: Float64Array
  squares: number

  constructor(rest: Float64Array) {
    this.#left = rest.slice()
    this.squares = dot(rest, rest)
  }

  /** @returns whether it says anything that the others do not */
  add(term: Term, white: Float64Array): boolean {
    const column = white.slice()
    const shares = this.columns.map((each) => {
      const shared = dot(column, each)
      takeFrom(column, shared, each)
      return shared
    })
    const length = Math.sqrt(dot(column, column))
    if (!(length > 1e-6 * Math.sqrt(dot(white, white)))) return false
    for (let index = 0; index < column.length; index += 1) column[index]! /= length
    const along = dot(column, this.#left)
    takeFrom(this.#left, along, column)
    this.squares = dot(this.#left, this.#left)
    this.terms.push(term)
    this.columns.push(column)
    this.upper.push(Float64Array.of(...shares, length))
    this.projected.push(along)
    return true
  }

  solve(): { beta: Float64Array; upper: readonly Float64Array[] } {
    return { beta: backwards(this.upper, Float64Array.from(this.projected)), upper: this.upper }
  }
}

/** Solves R b = y; column `j` of R has its entries 0 to j. */
export function backwards(upper: readonly Float64Array[], right: Float64Array): Float64Array {
  const beta = right.slice()
  for (let column = upper.length - 1; column >= 0; column -= 1) {
    beta[column]! /= upper[column]![column]!
    for (let row = 0; row < column; row += 1) beta[row]! -= upper[column]![row]! * beta[column]!
  }
  return beta
}

const MOST_STEPS = 34
const MOST_SPIKES = 12
const MOST_RATES = 90

/** Where something may have happened: the largest differences for steps, what stands alone for spikes, every few days for rates. */
function candidatesOf(
  { atDays, values }: History,
  { freshDays = 9, ratesUntil = 0 }: FitOptions,
): { term: Term; dearer: number }[] {
  const count = values.length
  const inner = Array.from({ length: Math.max(0, count - 2) }, (_, index) => index + 1)
  const later = [...inner, count - 1]
  const differs = (index: number): number => {
    const before = values[index - 1]!
    return Math.max(
      Math.abs(values[index]! - before),
      0.9 * Math.abs(values[index]! - values[Math.max(0, index - 2)]!),
    )
  }
  const alone = (index: number): number =>
    Math.abs(values[index]! - (values[index - 1]! + values[index + 1]!) / 2)
  const largest = (from: readonly number[], by: (index: number) => number, most: number): number[] =>
    [...from].sort((a, b) => by(b) - by(a)).slice(0, most)
  const stride = Math.max(1, Math.ceil(inner.length / MOST_RATES))
  const rates = inner.filter(
    (index) =>
      index >= 2 && atDays[index]! <= ratesUntil && ((count - index) % stride === 0 || count - index < 12),
  )
  return [
    ...largest(later, differs, MOST_STEPS).map((index) => ({ term: stepAt(atDays[index]!), dearer: 0 })),
    ...largest(inner, alone, MOST_SPIKES).map((index) => ({ term: spikeAt(atDays[index]!), dearer: 0 })),
    ...rates.map((index) => ({
      term: rateFrom(atDays[index]!),
      dearer: 2.5 * Math.max(0, 1 + atDays[index]! / freshDays),
    })),
  ]
}
