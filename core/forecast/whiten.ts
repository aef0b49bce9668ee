/**
 * Errors that are white noise and a random walk at once, made white: the one-step errors of the filter of a local level
 * (Harvey, *Forecasting, Structural Time Series Models and the Kalman Filter*, 1989, 3.2 and 4.3), with the first level
 * not known. Since the filter is linear, what it does to the history it does to every regressor, and regression by least
 * squares on what comes out is the generalised one.
 */
export class Whitener {
  readonly length: number
  /** Sum of the logarithms of the variances: what the likelihood has beside the squares. */
  readonly logs: number
  /** Variance of the level at the end, as a share of that of the errors. */
  readonly endVariance: number
  readonly #gain: Float64Array
  readonly #weight: Float64Array

  /**
   * @param atDays ascending times in days
   * @param walk share of the variance that comes by the random walk in a day, 0 to 1
   */
  constructor(
    atDays: Float64Array,
    readonly walk: number,
  ) {
    const count = atDays.length
    this.length = count - 1
    this.#gain = new Float64Array(count)
    this.#weight = new Float64Array(count)
    const white = 1 - walk
    let variance = white
    let logs = 0
    for (let index = 1; index < count; index += 1) {
      const ahead = variance + walk * Math.max(0.02, atDays[index]! - atDays[index - 1]!)
      const total = ahead + white
      this.#gain[index] = ahead / total
      this.#weight[index] = 1 / Math.sqrt(total)
      logs += Math.log(total)
      variance = ahead * (1 - this.#gain[index]!)
    }
    this.logs = logs
    this.endVariance = variance
  }

  /**
   * What is left of a column, and its level at the end.
   * @param from of the column everything up to here is zero, and so is what is left of it
   */
  apply(column: Float64Array, from = 0): { readonly white: Float64Array; readonly end: number } {
    const white = new Float64Array(this.length)
    let level = column[from]!
    for (let index = from + 1; index < column.length; index += 1) {
      const error = column[index]! - level
      white[index - 1] = error * this.#weight[index]!
      level += this.#gain[index]! * error
    }
    return { white, end: level }
  }
}
