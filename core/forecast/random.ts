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

/** Standard normal numbers (Box and Muller, 1958). */
export function normal(next: () => number): () => number {
  let spare: number | null = null
  return () => {
    if (spare !== null) {
      const value = spare
      spare = null
      return value
    }
    const radius = Math.sqrt(-2 * Math.log(1 - next()))
    const angle = 2 * Math.PI * next()
    spare = radius * Math.sin(angle)
    return radius * Math.cos(angle)
  }
}
