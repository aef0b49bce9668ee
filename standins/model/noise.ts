/** A number in 0..1 that depends on nothing but its arguments. */
export function hash01(seed: number, step: number): number {
  let bits = Math.imul(seed ^ 0x9e37_79b9, 0x85eb_ca6b) ^ Math.imul(step | 0, 0xc2b2_ae35)
  bits ^= bits >>> 15
  bits = Math.imul(bits, 0x2c1b_3c6d)
  bits ^= bits >>> 12
  return (bits >>> 0) / 4_294_967_296
}

/** Noise in -1..1 that runs smoothly from one support to the next. */
export function noise(seed: number, atMs: number, periodMs: number): number {
  const at = atMs / periodMs
  const step = Math.floor(at)
  const between = at - step
  const smooth = between * between * (3 - 2 * between)
  return (hash01(seed, step) * (1 - smooth) + hash01(seed, step + 1) * smooth) * 2 - 1
}

const DAY_MS = 86_400_000

/** The load of a forecast office over a day, 0..1: a swell through the day and the model runs at 0, 6, 12 and 18 UTC. */
export function officeLoad(seed: number, atMs: number): number {
  const day = (atMs % DAY_MS) / DAY_MS
  const swell = 0.34 + 0.14 * Math.sin((day - 0.3) * 2 * Math.PI)
  const run = (day * 4) % 1
  const modelRun = run > 0.08 && run < 0.42 ? 0.22 * Math.sin(((run - 0.08) / 0.34) * Math.PI) : 0
  const ripple = 0.05 * noise(seed, atMs, 600_000) + 0.03 * noise(seed + 7, atMs, 60_000)
  return Math.min(1, Math.max(0.02, swell + modelRun + ripple))
}

export const round = (value: number, decimals: number): number => Number(value.toFixed(decimals))
