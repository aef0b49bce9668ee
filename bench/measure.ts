/** Figures of repeated measurements, in the unit they were taken in. */
export interface Spread {
  readonly median: number
  readonly p95: number
  readonly most: number
}

/** Nearest-rank percentiles of at least one measurement. */
export function spreadOf(measured: readonly number[]): Spread {
  const sorted = [...measured].sort((a, b) => a - b)
  const rank = (ratio: number): number =>
    sorted[Math.max(0, Math.ceil(ratio * sorted.length) - 1)] ?? Number.NaN
  return { median: rank(0.5), p95: rank(0.95), most: rank(1) }
}

/** Milliseconds that each of `times` runs took, one after the other. */
export async function timed(
  times: number,
  run: (index: number) => Promise<unknown> | unknown,
): Promise<number[]> {
  const measured: number[] = []
  for (let index = 0; index < times; index += 1) {
    const startedMs = performance.now()
    await run(index)
    measured.push(performance.now() - startedMs)
  }
  return measured
}

export interface Verdict {
  readonly what: string
  readonly measured: string
  readonly limit: string
  readonly isMet: boolean
}

/** Prints a line a figure, and makes the process fail when one is not met. */
export function report(title: string, verdicts: readonly Verdict[]): void {
  console.log(`\n${title}`)
  const width = Math.max(...verdicts.map(({ what }) => what.length))
  for (const { what, measured, limit, isMet } of verdicts) {
    console.log(`  ${isMet ? 'met ' : 'MISS'}  ${what.padEnd(width)}  ${measured}  (asked: ${limit})`)
  }
  if (verdicts.some(({ isMet }) => !isMet)) process.exitCode = 1
}
