import { ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { level, of, state } from './making.ts'

/** The watching itself. */
export const WATCHING: readonly Rule[] = [
  level(
    {
      key: 'channel-stuck',
      name: 'A channel is stuck',
      why: 'What has not gone out for two minutes is not late by chance: somebody must be told another way.',
      measure: 'watch.stuck',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: null, critical: 120, back: 119, persistence: ofLast(1, 1) },
  ),
  level(
    {
      key: 'messages-untried',
      name: 'Messages are not tried',
      why: 'They are due, and no collector tries to send any of them: nobody is told of anything. Start the collectors again; heartbeats stay away meanwhile.',
      measure: 'watch.untried',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: null, critical: 120, back: 60, persistence: ofLast(1, 1) },
  ),
  state(
    {
      key: 'collector-dead',
      name: 'A collector is not at work',
      why: 'The others have taken over what it read; should the last one go, nobody says so any more.',
      measure: 'watch.collector',
      scope: of('selfMonitoring'),
    },
    { 0: 'critical' },
    ofLast(2, 2),
  ),
  level(
    {
      key: 'judged-late',
      name: 'Readings are judged late',
      why: 'Alerts come as late as readings are judged; two seconds are what this is built for.',
      measure: 'watch.delay',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 5000, critical: 60_000, back: 2000, persistence: ofLast(3, 3) },
  ),
  level(
    {
      key: 'clock-off',
      name: 'A clock is off',
      why: 'Readings carry the time of their collector: where its clock and that of the database differ, they stand beside each other wrongly. Set the clocks of both machines.',
      measure: 'watch.clock',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 30, critical: 300, back: 10, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'spool-grows',
      name: 'Readings wait on disk',
      why: 'They wait while the database is away, and are refused at two gigabytes.',
      measure: 'watch.spool',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 100e6, critical: 1e9, back: 50e6, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'database-slow',
      name: 'The database answers slowly',
      why: 'It answers in a millisecond; a second is a disk that fails or is full.',
      measure: 'watch.answer',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 1000, critical: null, back: 500, persistence: ofLast(3, 5) },
  ),
  level(
    {
      key: 'heartbeat-missed',
      name: 'A heartbeat is missed',
      why: 'Three in a row are no lost packet: the other side, or the way there, is down.',
      measure: 'watch.heartbeat',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: null, critical: 2, persistence: ofLast(1, 1) },
  ),
]
