/** The greatest number that divides all of these whole numbers (their sign aside); 1 when all are 0. */
export function greatestDivisor(numbers: Float64Array): number {
  let divisor = 0
  for (let index = 0; index < numbers.length && divisor !== 1; index += 1) {
    let rest = Math.abs(numbers[index]!)
    while (rest !== 0) [divisor, rest] = [rest, divisor % rest]
  }
  return divisor === 0 ? 1 : divisor
}
