import { describe, expect, test } from 'vitest'
import { hostResources, hostUptime } from './host.ts'
import type { Objects } from './session.ts'

const STORAGE = '1.3.6.1.2.1.25.2.3.1'
const [RAM, DISK] = ['1.3.6.1.2.1.25.2.1.2', '1.3.6.1.2.1.25.2.1.4']
type Row = readonly [name: string, type: string, size: number, used: number]

/** hrStorageTable in units of 1024 octets. */
const storage = (rows: readonly Row[]): [string, unknown][] =>
  rows.flatMap(([name, type, size, used], index) => [
    [`${STORAGE}.1.${index + 1}`, index + 1],
    [`${STORAGE}.2.${index + 1}`, type],
    [`${STORAGE}.3.${index + 1}`, Buffer.from(name)],
    [`${STORAGE}.4.${index + 1}`, 1024],
    [`${STORAGE}.5.${index + 1}`, size],
    [`${STORAGE}.6.${index + 1}`, used],
  ])
const objects = (entries: readonly [string, unknown][]): Objects => new Map(entries) as Objects
const of = (found: Objects, measure: string, part: string | null = null) =>
  hostResources(found, 'h')?.readings.filter((each) => each.measure === measure && each.part === part)

// As a stock agent of a host told it, beside what `free -k` said at the same moment: used 1116988, available 23567108.
const OTHER = '1.3.6.1.2.1.25.2.1.1'
const MEMORY: readonly Row[] = [
  ['Physical memory', RAM, 24_684_096, 2_898_396],
  ['Virtual memory', '1.3.6.1.2.1.25.2.1.3', 24_684_096, 2_898_396],
  ['Memory buffers', OTHER, 24_684_096, 95_664],
  ['Cached memory', OTHER, 2_081_420, 2_081_420],
  ['Shared memory', OTHER, 82_792, 82_792],
  ['Available memory', OTHER, 23_567_108, 0],
]

describe('the memory of a host', () => {
  test('is used as far as it is not available: cache is not', () => {
    const found = objects(storage(MEMORY))
    expect(of(found, 'system.memory.usage')).toMatchObject([{ value: 1_116_988 * 1024 }])
    expect(of(found, 'system.memory.limit')).toMatchObject([{ value: 24_684_096 * 1024 }])
    expect(of(found, 'system.memory.utilization')?.[0]?.value).toBeCloseTo(0.0453, 4)
  })
  test('of an agent that does not tell what is available: without buffers and cache, shared memory counts', () => {
    const found = objects(storage(MEMORY.slice(0, 5)))
    expect(of(found, 'system.memory.usage')).toMatchObject([
      { value: (2_898_396 - 95_664 - 2_081_420 + 82_792) * 1024 },
    ])
  })
  test('nothing at all available is full', () => {
    const found = objects(storage([MEMORY[0]!, ['Available memory', OTHER, 0, 0]]))
    expect(of(found, 'system.memory.utilization')).toMatchObject([{ value: 1 }])
  })
})

describe('a file system', () => {
  const root: Row = ['/', DISK, 264_212_084, 25_804_148]
  test('is full by what may be used, where the agent tells what is available', () => {
    // `df -k`: 264212084 25804148 80586764 25 %
    const disks: [string, unknown][] = [
      ['1.3.6.1.4.1.2021.9.1.2.1', Buffer.from('/')],
      ['1.3.6.1.4.1.2021.9.1.7.1', 80_586_764],
      ['1.3.6.1.4.1.2021.9.1.8.1', 25_804_148],
    ]
    const found = objects([...storage([root]), ...disks])
    const [ratio] = of(found, 'system.filesystem.utilization', 'filesystem /')!
    expect(Math.ceil(ratio!.value! * 100)).toBe(25)
  })
  test('else what is reserved counts as free', () => {
    const [ratio] = of(objects(storage([root])), 'system.filesystem.utilization', 'filesystem /')!
    expect(ratio!.value).toBeCloseTo(0.0977, 4)
  })
})

test('how long a host is up is its own time, not that of the agent', () => {
  expect(hostUptime(objects([['1.3.6.1.2.1.25.1.1.0', 2_842_619]]))).toBeCloseTo(28_426.19)
  expect(hostUptime(objects([]))).toBeNull()
})
