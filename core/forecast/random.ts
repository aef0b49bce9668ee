/** Uniform numbers in [0, 1), the same for the same seed (mulberry32). */
export function uniform(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296
  }
}

const LAYERS = 128
/** Where the tail begins, and the area of each layer (Doornik, 2005, table 1). */
const TAIL = 3.442_619_855_899
const AREA = 9.912_563_035_262_17e-3
const heightAt = (x: number): number => Math.exp(-0.5 * x * x)
/** Right edges of the layers, from the widest to the top, and how much of each lies under the one above it. */
const EDGES = edges()
const INNER = Float64Array.from({ length: LAYERS }, (_, layer) => EDGES[layer + 1]! / EDGES[layer]!)

function edges(): Float64Array {
  const at = new Float64Array(LAYERS + 1)
  at[0] = AREA / heightAt(TAIL)
  at[1] = TAIL
  for (let layer = 2; layer < LAYERS; layer += 1)
    at[layer] = Math.sqrt(-2 * Math.log(AREA / at[layer - 1]! + heightAt(at[layer - 1]!)))
  return at
}

/**
 * Standard normal numbers by layers (Marsaglia and Tsang, *The Ziggurat Method*, 2000), with a number of its own for the
 * choice of the layer (Doornik, *An Improved Ziggurat Method*, 2005). Most need neither logarithm nor root.
 */
export function normal(next: () => number): () => number {
  return () => {
    for (;;) {
      const side = 2 * next() - 1
      const layer = Math.floor(next() * LAYERS)
      if (Math.abs(side) < INNER[layer]!) return side * EDGES[layer]!
      if (layer === 0) return side < 0 ? -tail(next) : tail(next)
      const x = side * EDGES[layer]!
      const [low, high] = [heightAt(EDGES[layer]!), heightAt(EDGES[layer + 1]!)]
      if (low + next() * (high - low) < heightAt(x)) return x
    }
  }
}

/** Beyond the widest layer (Marsaglia, 1964). */
function tail(next: () => number): number {
  for (;;) {
    const beyond = -Math.log(1 - next()) / TAIL
    if (-2 * Math.log(1 - next()) >= beyond * beyond) return TAIL + beyond
  }
}
