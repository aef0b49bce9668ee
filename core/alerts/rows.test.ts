import { describe, expect, test } from 'vitest'
import { DEFAULT_RULES } from '../rules/index.ts'
import { foldAlerts } from './fold.ts'
import {
  alertRow,
  lineOnCurve,
  notifiedWords,
  type OpenAlert,
  type RowMessage,
  tellingSeries,
} from './rows.ts'

const NOW = Date.UTC(2026, 2, 4, 2, 9)
const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')
const alert = (rest: Partial<OpenAlert> = {}): OpenAlert => ({
  id: 1,
  gearId: 7,
  partId: 3,
  sourceId: null,
  seriesId: 12,
  measure: 'hw.temperature',
  severity: 'warning',
  openedAtMs: NOW - 60_000,
  sinceMs: NOW - 90_000,
  ruleKey: 'inlet',
  subject: 'series 12',
  title: 'Inlet at 31 °C in petrel-07',
  reason: 'Above 30 °C.',
  value: null,
  line: null,
  takenBy: null,
  quietId: null,
  causePath: null,
  consequence: null,
  flaps: 0,
  gearName: 'petrel-07',
  gearKind: 'server',
  partName: 'inlet',
  rackName: 'B04',
  unit: 10,
  heightUnits: 2,
  onName: null,
  ...rest,
})
const facts = {
  value: null,
  companions: {},
  silence: null,
  messages: [],
  hasCallOut: true,
  nowMs: NOW,
  timeZone: 'UTC',
  curve: null,
}
const rowOf = (alerts: readonly OpenAlert[], rest: Partial<typeof facts> = {}) =>
  alertRow(foldAlerts(alerts)[0]!, { ...facts, ...rest })

describe('a row', () => {
  test('has the title as of now where there is a value, else as it was at the opening', () => {
    expect(rowOf([alert()]).title).toBe('Inlet at 31 °C in petrel-07')
    const ahead = rowOf([alert({ subject: 'ahead 12', title: 'Store gannet-03 runs out in 10 days' })], {
      value: 20 as never,
    })
    expect(ahead.title, 'the reading of now says nothing of what is forecast').toBe(
      'Store gannet-03 runs out in 10 days',
    )
    expect(ahead.href).toBe('/ahead/12')
    expect(plain(rowOf([alert()], { value: 33.2 as never }).title)).toContain('33.2 °C')
  })
  test('says the reading of now beside that of then where they differ', () => {
    const open = alert({ value: 31, line: 'above 30.0 °C' })
    expect(rowOf([open], { value: 31 as never }).reason).toBe('Above 30 °C.')
    expect(plain(rowOf([open], { value: 33.2 as never }).reason)).toBe(
      'Temperature 33.2 °C now, was 31.0 °C at 02:08; the line: above 30.0 °C.',
    )
  })
  test.each([
    [alert({ quietId: 5, severity: 'critical' }), 'quiet'],
    [alert({ severity: 'critical' }), 'critical'],
    [alert({ sourceId: 4, severity: 'warning', gearId: null, partId: null, seriesId: null }), 'noData'],
    [alert({ sourceId: 4, severity: 'critical', gearId: null, partId: null, seriesId: null }), 'critical'],
  ])('is %#: its state', (open, state) => {
    expect(rowOf([open]).state).toBe(state)
  })
  test('is as bad as what follows from it', () => {
    const row = rowOf([
      alert(),
      alert({ id: 2, partId: 9, severity: 'critical', causeId: 1, causePath: 'hosts' }),
    ])
    expect(row).toMatchObject({ id: 1, state: 'critical', followOns: [{ id: 2, path: 'hosts' }] })
  })
  test.each([
    [alert(), '/gear/7?r=12'],
    [alert({ seriesId: null }), '/gear/7'],
    [alert({ gearId: null, seriesId: null, sourceId: 4 }), '/sources#source-4'],
    [alert({ gearId: null, seriesId: null, subject: 'store' }), '/settings/space'],
    [alert({ gearId: null, seriesId: null, subject: 'sender 3' }), '/alerts/1'],
  ])('leads to what it is about: %#', (open, href) => {
    expect(rowOf([open]).href).toBe(href)
  })
})

describe('who was notified', () => {
  const message = (rest: Partial<RowMessage> = {}): RowMessage => ({
    team: 'night team by mail',
    event: 'opened',
    isSent: false,
    isFailed: false,
    attempts: 0,
    dueMs: NOW,
    skipped: null,
    ...rest,
  })
  test.each([
    ['each once', [message({ isSent: true }), message({ isSent: true })], 'night team by mail'],
    ['not due yet', [message({ dueMs: NOW + 1 })], 'nobody yet'],
    ['due now, by the time that is given', [message()], 'night team by mail, on its way'],
    ['tried', [message({ attempts: 2 })], 'night team by mail, not through yet'],
    ['given up', [message({ isFailed: true, attempts: 9 })], 'night team by mail, in vain'],
    ['left out, and why', [message({ skipped: 'it was quieted' })], 'nobody, it was quieted'],
    ['that it has gone says nobody', [message({ event: 'cleared', isSent: true })], 'nobody yet'],
  ])('%s', (_, messages, words) => {
    expect(notifiedWords(messages, { hasCallOut: true, nowMs: NOW })).toBe(words)
  })
  test('without a call-out it is said why nobody is', () => {
    expect(notifiedWords([], { hasCallOut: false, nowMs: NOW })).toBe('nobody, there is no call-out')
  })
})

test('during an outage the minutes left are drawn, against the line of the runtime', () => {
  const outage = alert({ measure: 'ups.output.source', severity: 'critical', ruleKey: 'ups-on-battery' })
  const minutes = { id: 44, gearId: 7, measure: 'ups.battery.minutes_left' as const }
  expect(tellingSeries(outage, [{ ...minutes, id: 43, gearId: 8 }, minutes])).toBe(44)
  expect(tellingSeries(outage, [])).toBe(12)
  const kept = DEFAULT_RULES.map((rule) => ({ rule }))
  const runtime = DEFAULT_RULES.find(({ key }) => key === 'ups-runtime')
  const wanted =
    runtime?.kind === 'level' ? runtime.lines.find(({ severity }) => severity === 'critical')?.at : null
  expect(lineOnCurve(outage, kept)).toBe(wanted)
  expect(lineOnCurve(alert({ ruleKey: 'not kept' }), kept)).toBeNull()
})
