import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { whenResting } from './resting.ts'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

function watched() {
  const page = new EventTarget()
  const came: number[] = []
  const began = performance.now()
  const stop = whenResting(() => came.push(performance.now() - began), page)
  return { page, came, stop, tell: (name: string) => page.dispatchEvent(new Event(name)) }
}

test('it comes when the pointer has rested, and once', () => {
  const { came, tell } = watched()
  vi.advanceTimersByTime(500)
  tell('pointermove')
  vi.advanceTimersByTime(600)
  expect(came).toEqual([])
  vi.advanceTimersByTime(5000)
  expect(came).toEqual([1200])
})
test('who moves on and on gets it after three seconds', () => {
  const { came, tell } = watched()
  for (let step = 0; step < 40; step += 1) {
    tell('pointermove')
    vi.advanceTimersByTime(100)
  }
  expect(came).toEqual([3000])
})
test.each(['pointerup', 'pointercancel', 'dragend'])(
  'while something is held it never comes: until %s',
  (end) => {
    const { came, tell } = watched()
    tell('pointerdown')
    vi.advanceTimersByTime(60_000)
    expect(came).toEqual([])
    tell(end)
    vi.advanceTimersByTime(0)
    expect(came, 'it has waited for long enough').toEqual([60_000])
  },
)
test('a drag goes on without the pointer being told of', () => {
  const { came, tell } = watched()
  tell('pointerdown')
  tell('pointercancel')
  tell('dragover')
  vi.advanceTimersByTime(10_000)
  expect(came).toEqual([])
  tell('dragend')
  vi.advanceTimersByTime(0)
  expect(came).toEqual([10_000])
})
test('what is not needed any more does not come', () => {
  const { came, stop } = watched()
  stop()
  vi.advanceTimersByTime(10_000)
  expect(came).toEqual([])
})
