import { expect, test } from 'vitest'
import { quietSpan, type QuietTimeFields } from './index.ts'

const ZONE = 'Europe/Oslo'
const NOW = Date.parse('2026-11-27T10:00:00Z')
const of = (fields: Partial<QuietTimeFields>) =>
  quietSpan({ length: '', from: '', until: '', repeats: '', ...fields }, NOW, ZONE)
const at = (text: string): number => Date.parse(text)

test.each([
  [{ length: '1 h' }, NOW, NOW + 3_600_000],
  [{ length: 'open' }, NOW, null],
  [{}, NOW, null],
  // In winter the clocks of the zone are an hour ahead of UTC.
  [{ until: '2026-11-27T12:00' }, NOW, at('2026-11-27T11:00:00Z')],
  [
    { from: '2026-11-30T22:00', until: '2026-12-01T02:00' },
    at('2026-11-30T21:00:00Z'),
    at('2026-12-01T01:00:00Z'),
  ],
  [{ from: '2026-11-30T22:00' }, at('2026-11-30T21:00:00Z'), null],
  // What repeats may have begun long ago.
  [
    { from: '2026-11-01T22:00', until: '2026-11-02T02:00', repeats: 'FREQ=DAILY' },
    at('2026-11-01T21:00:00Z'),
    at('2026-11-02T01:00:00Z'),
  ],
])('%o is quiet for so long', (fields, fromMs, toMs) => {
  expect(of(fields)).toEqual({ kind: 'span', fromMs, toMs })
})

test.each([
  [{ length: 'a while' }, 'a while'],
  [{ from: 'tomorrow' }, 'Times are written as'],
  [{ from: '2026-11-30T22:00', until: '2026-11-30T21:00' }, 'must end after it begins'],
  [{ from: '2026-11-01T22:00', until: '2026-11-02T02:00' }, 'over already'],
  [{ from: '2026-11-30T22:00', repeats: 'FREQ=DAILY' }, 'needs an end'],
])('%o is refused in words', (fields, words) => {
  expect(of(fields)).toMatchObject({ kind: 'problem', message: expect.stringContaining(words) })
})
