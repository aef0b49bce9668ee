import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Db } from '#db/platform'
import { insertSource } from '#db/sources'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { Notifier } from '../notify/notifier.ts'
import { AlertWriter } from './alertWriter.ts'
import { SENDER_CLOCK_RULE, SenderClocks } from './senderClocks.ts'

const NOW = Date.parse('2026-11-28T09:00:00Z')
let db: Db
let drop: () => Promise<void>
let sourceId: number
beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  sourceId = await insertSource(db, {
    name: 'tarn-02 sender',
    protocol: 'otlp',
    address: '',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: 'a token of tarn-02 0123456789',
  })
})
afterAll(() => drop())

const alerts = () =>
  db
    .selectFrom('alert')
    .select(['severity', 'title', 'reason', 'clearedAt'])
    .where('ruleKey', '=', SENDER_CLOCK_RULE)
    .orderBy('id')
    .execute()
const clocks = () => new SenderClocks(db, new AlertWriter(db, new Notifier(randomBytes(32))))
const push = (of: SenderClocks, second: number, offMs: number, durationMs: number | null = null) => {
  const heardAtMs = NOW + second * 1000
  return of.heard({ sourceId, heardAtMs, atMs: heardAtMs + offMs, durationMs })
}

test('a sender whose clock is off is one alert with both clocks, through a restart and two collectors, until it is set', async () => {
  const first = clocks()
  await push(first, 0, -400)
  await push(first, 10, 125_000)
  await push(first, 20, 125_000)
  expect(await alerts()).toEqual([
    {
      severity: 'warning',
      title: 'The clock of tarn-02 sender is 2\u00a0min ahead',
      reason:
        'It showed 2026-11-28 09:02:15 UTC when it was 2026-11-28 09:00:10 UTC here. Its readings stand at the wrong time: set its clock.',
      clearedAt: null,
    },
  ])
  const second = clocks()
  await push(second, 30, 400_000)
  await push(second, 40, 400_000)
  expect(await alerts()).toMatchObject([{ severity: 'critical', clearedAt: null }])
  for (const at of [50, 60, 70, 80, 90]) await push(second, at, -300)
  expect(await alerts()).toMatchObject([{ severity: 'critical', clearedAt: new Date(NOW + 90_000) }])
})

test('behind is said when it stays so; a queue that comes late, what we read ourselves and the older moments of a push are not', async () => {
  const own = clocks()
  for (const [index, off] of [-400_000, -300_000, -200_000, -100_000, -50_000].entries())
    await push(own, index, off)
  for (const at of [10, 20, 30, 40, 50, 60]) await push(own, at, -90_000, 90_000)
  for (const at of [70, 80, 90, 100, 110])
    for (const off of [-120_000, -60_000, -200]) await push(own, at, off)
  expect(await alerts()).toHaveLength(1)
  for (const at of [120, 130, 140, 150, 160]) await push(own, at, -45_200)
  expect((await alerts()).at(-1)).toMatchObject({
    severity: 'warning',
    title: 'The clock of tarn-02 sender is 45\u00a0s behind',
    clearedAt: null,
  })
})
