import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { clusterPast, clusterUse, type HostPast, type HostUse } from './clusters.ts'

const GIB = 1024 ** 3
const host = (
  processors: number | null,
  use: number | null,
  memoryUse: number | null,
  gib: number,
): HostUse => ({
  processors,
  processorUse: use,
  memoryUse,
  memory: gib * GIB,
})

describe('what a cluster uses', () => {
  it('is what its hosts use together; without the largest one the others carry all of it', () => {
    // By hand: 16 of 32 and 8 of 64 processors are busy, (16 + 8) / 96 = 0.25, without the larger 24 / 32 = 0.75.
    // 64 of 128 and 192 of 384 GiB are used, without the larger host 256 / 128.
    const use = clusterUse([host(32, 0.5, 0.5, 128), host(64, 0.125, 0.5, 384)])
    expect(use).toEqual({
      'system.cpu.utilization': 0.25,
      'system.cpu.less_largest': 0.75,
      'system.memory.usage': 256 * GIB,
      'system.memory.limit': 512 * GIB,
      'system.memory.utilization': 0.5,
      'system.memory.less_largest': 2,
    })
  })

  it('counts hosts alike while one of them does not say how many processors it has', () => {
    const use = clusterUse([host(null, 0.5, 0.5, 2), host(64, 0.1, 0.5, 2)])
    expect(use['system.cpu.utilization']).toBeCloseTo(0.3)
    expect(use['system.cpu.less_largest']).toBeCloseTo(0.6)
  })

  it('is not known while a host is not, and of one host alone nothing is left', () => {
    const some = clusterUse([host(8, 0.5, null, 64), host(8, 0.5, 0.1, 64)])
    expect(some['system.memory.utilization']).toBeNull()
    expect(some['system.cpu.utilization']).toBe(0.5)
    expect(clusterUse([host(8, 0.5, 0.1, 64)])['system.memory.less_largest']).toBeNull()
    expect(Object.values(clusterUse([]))).toEqual(Array(6).fill(null))
    expect(clusterUse([host(8, 0.5, 0, 0), host(8, 0.5, 0, 0)])['system.memory.utilization']).toBeNull()
  })

  it('is the same in whatever order hosts come, and never less without one of them', () => {
    const hosts = fc.array(
      fc.record({
        processors: fc.integer({ min: 1, max: 256 }),
        processorUse: fc.double({ min: 0, max: 1, noNaN: true }),
        memoryUse: fc.double({ min: 0, max: 1, noNaN: true }),
        memory: fc.integer({ min: 1, max: 2 ** 41 }),
      }),
      { minLength: 2, maxLength: 12 },
    )
    fc.assert(
      fc.property(hosts, (all) => {
        const [use, turned] = [clusterUse(all), clusterUse([...all].reverse())]
        for (const measure of ['system.cpu.less_largest', 'system.memory.less_largest'] as const)
          expect(turned[measure]).toBeCloseTo(use[measure]!, 9)
        expect(use['system.cpu.less_largest']!).toBeGreaterThanOrEqual(use['system.cpu.utilization']!)
        expect(use['system.memory.less_largest']!).toBeGreaterThanOrEqual(use['system.memory.utilization']!)
      }),
    )
  })
})

describe('the past of a cluster', () => {
  const HOUR = 3_600_000
  const raster = { columns: 60, stepMs: HOUR }
  const past = (value: number, isThere: (column: number) => boolean): HostPast => {
    const row = (of: number) => Float64Array.from({ length: 60 }, (_, column) => (isThere(column) ? of : NaN))
    return { processors: 8, processorUse: row(value), memoryUse: row(value), memory: row(GIB) }
  }

  it('has a gap where a host is missed, and goes on without one that is gone', () => {
    const { 'system.memory.limit': limit } = clusterPast(
      [past(0.5, () => true), past(0.25, (column) => column < 10), past(0.25, (column) => column >= 50)],
      raster,
    )
    expect(limit[9]).toBe(2 * GIB)
    // Missed for a day, then gone; a third comes later.
    expect([limit[10], limit[33]]).toEqual([NaN, NaN])
    expect(limit[34]).toBe(GIB)
    expect(limit[49]).toBe(GIB)
    expect(limit[50]).toBe(2 * GIB)
  })
})
