// Made-up readings of the kinds that are really read, the same at every run. A reading a minute.

const STEP = 2_147_483_647

/** Lehmer's generator (Park and Miller 1988): 0..1. */
function uniform(seed: number): () => number {
  let state = (seed * 48_271) % STEP || 1
  return () => (state = (state * 48_271) % STEP) / STEP
}

/** About normal, by the sum of four uniform numbers; spread 1. */
const normal = (next: () => number): number => (next() + next() + next() + next() - 2) * Math.sqrt(3)

const round = (value: number, decimals: number): number => {
  const power = 10 ** decimals
  return Math.round(value * power) / power
}

type Kind = (seed: number) => (minute: number) => number

const KINDS: Readonly<Record<string, Kind>> = {
  'CPU %, tenths': (seed) => {
    const next = uniform(seed)
    let level = 40
    return (minute) => {
      level = level * 0.95 + 0.05 * (35 + 15 * Math.sin(minute / 230)) + normal(next) * 2
      return round(Math.min(100, Math.max(0, level)), 1)
    }
  },
  'tenths of °C': (seed) => {
    const next = uniform(seed)
    return (minute) => round(22 + 3 * Math.sin(minute / 230 + seed) + 0.1 * normal(next), 1)
  },
  watts: (seed) => {
    const next = uniform(seed)
    let level = 300
    return () => (level = Math.max(0, Math.round(level * 0.98 + 6 + 3 * normal(next))))
  },
  'bytes used': (seed) => {
    const next = uniform(seed)
    let used = 4e12
    return (minute) => (used += Math.round(next() * 50) * 65_536 * (minute % 11 === 0 ? 1 : 0))
  },
  rpm: (seed) => {
    const next = uniform(seed)
    return () => Math.round((5400 + 20 * normal(next)) / 30) * 30
  },
  'a state': (seed) => (minute) => ((minute + seed * 97) % 9000 < 20 ? 5 : 3),
  'octets in a minute': (seed) => {
    const next = uniform(seed)
    return (minute) => Math.max(0, Math.round(1e6 * (1 + 0.5 * Math.sin(minute / 200)) + 2e4 * normal(next)))
  },
}
export const KIND_NAMES = Object.keys(KINDS)

/** One maker of readings a series, the kinds in turn. */
export const mixedSeries = (count: number): ((minute: number) => number)[] =>
  Array.from({ length: count }, (_, index) => KINDS[KIND_NAMES[index % KIND_NAMES.length]!]!(index + 1))
