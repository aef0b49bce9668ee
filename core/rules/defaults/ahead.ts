import type { MeasureKey } from '../../catalogue/index.ts'
import type { Rule, Scope } from '../rule.ts'
import { of, type Words } from './making.ts'

function daysLeft(
  words: Words & { readonly measure: MeasureKey; readonly scope: Scope },
  { warning, critical }: { readonly warning: number; readonly critical: number | null },
): Rule {
  return {
    kind: 'ahead',
    ...words,
    lines: [
      { severity: 'warning', days: warning },
      ...(critical === null ? [] : [{ severity: 'critical' as const, days: critical }]),
    ],
  }
}

/** What runs out, by what is forecast. */
export const AHEAD: readonly Rule[] = [
  daysLeft(
    {
      key: 'space-ahead',
      name: 'Space runs out soon',
      why: 'A month is time to clean up, to move something or to order; a week is time to do it today.',
      measure: 'system.filesystem.utilization',
      scope: of(null),
    },
    { warning: 30, critical: 7 },
  ),
  daysLeft(
    {
      key: 'inodes-ahead',
      name: 'Inodes run out soon',
      why: 'Nothing has to be bought, but somebody has to find out what writes so many files.',
      measure: 'system.filesystem.inodes.utilization',
      scope: of(null),
    },
    { warning: 14, critical: 3 },
  ),
  daysLeft(
    {
      key: 'drive-ahead',
      name: 'A drive wears out soon',
      why: 'It is ordered, delivered and exchanged in a maintenance window: two months leave a choice of windows.',
      measure: 'hw.drive.life_left',
      scope: of(null),
    },
    { warning: 60, critical: 14 },
  ),
  daysLeft(
    {
      key: 'drive-written-ahead',
      name: 'A drive reaches its rated endurance soon',
      why: 'What its maker promises is written by then; for ordering the same holds as for what it says of its wear.',
      measure: 'hw.drive.written',
      scope: of(null),
    },
    { warning: 60, critical: 14 },
  ),
  daysLeft(
    {
      key: 'processor-ahead',
      name: 'Processors of a host are used up soon',
      why: 'A host is not bought within a month; moving machines away takes a week.',
      measure: 'system.cpu.utilization',
      scope: of('server'),
    },
    { warning: 60, critical: null },
  ),
  daysLeft(
    {
      key: 'memory-ahead',
      name: 'Memory of a host is used up soon',
      why: 'A host is not bought within a month; moving machines away takes a week.',
      measure: 'system.memory.utilization',
      scope: of('server'),
    },
    { warning: 60, critical: null },
  ),
  daysLeft(
    {
      key: 'cluster-memory-ahead',
      name: 'A cluster can lose no host soon, for its memory',
      why: 'What runs on its largest host must find room on the others when that one is lost; another host takes two months.',
      measure: 'system.memory.less_largest',
      scope: of('cluster'),
    },
    { warning: 60, critical: null },
  ),
  daysLeft(
    {
      key: 'cluster-processor-ahead',
      name: 'A cluster can lose no host soon, for its processors',
      why: 'What runs on its largest host must find room on the others when that one is lost; another host takes two months.',
      measure: 'system.cpu.less_largest',
      scope: of('cluster'),
    },
    { warning: 60, critical: null },
  ),
  daysLeft(
    {
      key: 'battery-ahead',
      name: 'A battery gets too weak soon',
      why: 'New blocks take weeks to come, and somebody has to be there to put them in.',
      measure: 'ups.battery.minutes_left',
      scope: of('ups'),
    },
    { warning: 60, critical: 14 },
  ),
  daysLeft(
    {
      key: 'battery-age-ahead',
      name: 'A battery is as old as it is made for soon',
      why: 'From then on it may fail at the next outage, whatever its UPS says of its charge; a new one takes weeks to come.',
      measure: 'ups.battery.age',
      scope: of('ups'),
    },
    { warning: 60, critical: null },
  ),
  daysLeft(
    {
      key: 'feed-ahead',
      name: 'A phase reaches its line soon',
      why: 'Load is moved from one phase to another in a planned window; a new feed takes months.',
      measure: 'hw.current',
      scope: of(null, 'phase'),
    },
    { warning: 90, critical: 30 },
  ),
  daysLeft(
    {
      key: 'strip-alone-ahead',
      name: 'A rack outgrows one feed soon',
      why: 'From then on the loss of one feed takes the other with it; gear is moved or another feed is laid, which takes months.',
      measure: 'hw.power.alone',
      scope: of('pdu'),
    },
    { warning: 90, critical: 30 },
  ),
  daysLeft(
    {
      key: 'ups-load-ahead',
      name: 'A UPS reaches its line soon',
      why: 'What hangs on it must be split or it must be replaced, which is planned a quarter ahead.',
      measure: 'ups.output.load',
      scope: of('ups'),
    },
    { warning: 90, critical: 30 },
  ),
]
