/**
 * The offset at which a source is read within its interval, so that many sources do not ask at once.
 * The same source always has the same phase; phases of consecutive ids are spread by the golden ratio.
 * @returns whole seconds in ms, 0 ≤ phase < interval.
 */
export function slotPhaseMs(sourceId: number, intervalMs: number): number {
  const fraction = (sourceId * 0.618_033_988_749_895) % 1
  return Math.floor((fraction * intervalMs) / 1000) * 1000
}

/** The latest moment of the grid `phase + k × interval` that is not after `atMs`. */
export function alignToSlot(atMs: number, intervalMs: number, phaseMs: number): number {
  return Math.floor((atMs - phaseMs) / intervalMs) * intervalMs + phaseMs
}
