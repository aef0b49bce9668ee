import type { LatestReadings } from '../readings/index.ts'

/** Every latest reading as series, instant and value. */
export function everyLatest(latest: LatestReadings): [seriesId: number, atMs: number, value: number][] {
  const all: [number, number, number][] = []
  latest.forEach((...reading) => all.push(reading))
  return all
}
