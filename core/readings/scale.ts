const POWERS = Array.from({ length: 10 }, (_, exponent) => 10 ** exponent)
/** Beyond it, twice a whole number would no longer be told from its neighbour. */
const LARGEST = 2 ** 51

/** Whole numbers that stand for decimals: each value is exactly `whole / 10^exponent`. */
export interface Scaled {
  readonly exponent: number
  readonly wholes: Float64Array
}

/**
 * Finds the fewest decimals, at most nine, with which every value survives the way to a whole number and back bit for
 * bit. What device registers and percentages give is of this kind.
 * @returns `null` when there is none: a third, a NaN, an infinity, a negative zero, a whole number of 2^51 and more
 */
export function scaleOf(values: Float64Array): Scaled | null {
  const wholes = new Float64Array(values.length)
  let exponent = 0
  for (let index = 0; index < values.length; index += 1) {
    const value = values[index]!
    for (;;) {
      // The sum with 0 turns a negative zero into a zero, which then does not survive: on purpose.
      const whole = Math.round(value * POWERS[exponent]!) + 0
      if (Math.abs(whole) < LARGEST && Object.is(whole / POWERS[exponent]!, value)) {
        wholes[index] = whole
        break
      }
      exponent += 1
      if (exponent >= POWERS.length) return null
      // Everything before was found with fewer decimals; each must survive with more of them, too.
      index = -1
      break
    }
  }
  return { exponent, wholes }
}

export const powerOfTen = (exponent: number): number => POWERS[exponent]!
