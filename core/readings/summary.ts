export interface Summary {
  readonly last: number
  readonly min: number
  readonly mean: number
  readonly max: number
}

/** Last, least, mean and greatest of a stretch of readings; `null` when there are none. The mean is per reading. */
export function summarize(values: ArrayLike<number>): Summary | null {
  if (values.length === 0) return null
  let min = Infinity
  let max = -Infinity
  let sum = 0
  for (let index = 0; index < values.length; index += 1) {
    const value = values[index]!
    if (value < min) min = value
    if (value > max) max = value
    sum += value
  }
  return { last: values[values.length - 1]!, min, mean: sum / values.length, max }
}
