import { spawnSync } from 'node:child_process'
import fc from 'fast-check'
import { appendFileSync, mkdtempSync, readFileSync, rmSync, truncateSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, test } from 'vitest'
import { Spool } from './spool.ts'

let folder = ''
const path = (): string => join(folder, 'spool.jsonl')
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'rack-spool-'))
})
afterEach(() => rmSync(folder, { recursive: true }))

async function opened(limitBytes = 1 << 20): Promise<Spool<number>> {
  const spool = new Spool<number>(folder, limitBytes)
  await spool.open()
  return spool
}
async function drained(spool: Spool<number>): Promise<number[]> {
  const items: number[] = []
  await spool.drain(async (item) => {
    items.push(item)
    return Promise.resolve()
  })
  return items
}

test('what was appended comes out in order, and the file is empty afterwards', async () => {
  const spool = await opened()
  await Promise.all([1, 2, 3, 4].map((item) => spool.append(item)))
  expect(spool.isEmpty).toBe(false)
  expect(await drained(spool)).toEqual([1, 2, 3, 4])
  expect(spool.isEmpty).toBe(true)
  expect(readFileSync(path(), 'utf8')).toBe('')
  await spool.close()
})

test('it is still there for the next process', async () => {
  const first = await opened()
  await first.append(5)
  await first.close()
  const second = await opened()
  await second.append(6)
  expect(await drained(second)).toEqual([5, 6])
  await second.close()
})

test('a delivery that fails stops there, and goes on there', async () => {
  const spool = await opened()
  for (const item of [1, 2, 3]) await spool.append(item)
  const seen: number[] = []
  const deliver = async (item: number): Promise<void> => {
    if (item === 2 && !seen.includes(-2)) {
      seen.push(-2)
      throw new Error('away')
    }
    seen.push(item)
    return Promise.resolve()
  }
  await expect(spool.drain(deliver)).rejects.toThrow('away')
  await spool.append(4)
  await spool.drain(deliver)
  expect(seen).toEqual([1, -2, 2, 3, 4])
  await spool.close()
})

test('wherever a crash cuts the file, whole lines survive and nothing is invented', async () => {
  await fc.assert(
    fc.asyncProperty(fc.nat(120), async (cut) => {
      rmSync(path(), { force: true })
      const spool = await opened()
      for (const item of [10, 20, 30]) await spool.append(item)
      await spool.close()
      const size = readFileSync(path()).length
      truncateSync(path(), Math.max(0, size - cut))
      const again = await opened()
      await again.append(40)
      const items = await drained(again)
      await again.close()
      const whole = [10, 20, 30].filter((item) => items.includes(item))
      expect(items).toEqual([...whole, 40])
      expect(whole).toEqual([10, 20, 30].slice(0, whole.length))
      if (cut === 0) expect(whole).toHaveLength(3)
    }),
    { numRuns: 40 },
  )
})

test('a line that was altered is passed over', async () => {
  const spool = await opened()
  await spool.append(1)
  await spool.close()
  appendFileSync(path(), '00000000 2\nnot even a line\n')
  const again = await opened()
  expect(await drained(again)).toEqual([1])
  await again.close()
})

test('at its limit it refuses, in words, and keeps what it has', async () => {
  const spool = await opened(30)
  await spool.append(1)
  await spool.append(2)
  await expect(spool.append(3)).rejects.toThrow(/at its limit of 30 bytes/)
  expect(await drained(spool)).toEqual([1, 2])
  await spool.append(3)
  expect(await drained(spool)).toEqual([3])
  await spool.close()
})

test('a disk that is full in the middle of a line: what is acknowledged is there, whole, and nothing else', async () => {
  // A limit of the shell for files makes the system write a part of what it is given, as a full disk does.
  const program = `
    import { Spool } from '${join(import.meta.dirname, 'spool.ts')}'
    const spool = new Spool(process.argv[1], 1 << 30)
    await spool.open()
    for (let item = 0; item < 40; item += 1)
      await spool.append(item + 'x'.repeat(700)).then(
        () => console.log(item),
        () => undefined,
      )`
  const child = spawnSync(
    'bash',
    [
      '-c',
      'ulimit -f 10 && exec "$0" --import tsx --input-type=module -e "$1" "$2"',
      process.execPath,
      program,
      folder,
    ],
    { encoding: 'utf8' },
  )
  const acknowledged = child.stdout.split('\n').filter(Boolean).map(Number)
  expect(child.stderr).toBe('')
  expect(acknowledged.length).toBeGreaterThan(5)
  expect(acknowledged.length).toBeLessThan(40)
  const damage: number[] = []
  const spool = new Spool<string>(folder, 1 << 30, (bytes) => damage.push(bytes))
  await spool.open()
  await spool.append('after')
  const items: string[] = []
  await spool.drain((item) => Promise.resolve(void items.push(item)))
  await spool.close()
  expect(items.map((item) => (item === 'after' ? item : parseInt(item, 10)))).toEqual([
    ...acknowledged,
    'after',
  ])
  expect(damage).toEqual([])
})

test('lines of more than eight megabytes come out again, and do not hold up what comes after', async () => {
  const spool = new Spool<string>(folder, 1 << 30)
  await spool.open()
  const long = 'y'.repeat(9 * 1024 * 1024)
  for (const item of ['before', long, 'after']) await spool.append(item)
  const items: string[] = []
  await spool.drain((item) => Promise.resolve(void items.push(item)))
  expect(items.map((item) => item.length)).toEqual([6, long.length, 5])
  await spool.close()
})

test('a torn tail is passed over and said, and what comes after it is kept', async () => {
  const first = await opened()
  await first.append(1)
  await first.close()
  appendFileSync(path(), '1234abcd {"torn":')
  const damage: number[] = []
  const again = new Spool<number>(folder, 1 << 20, (bytes) => damage.push(bytes))
  await again.open()
  await again.append(2)
  expect(await drained(again)).toEqual([1, 2])
  expect(damage).toEqual(['1234abcd {"torn":\n'.length])
  await again.close()
})
