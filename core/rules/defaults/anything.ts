import { ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { level, of, state } from './making.ts'

/** Whatever it is. */
export const ANYTHING: readonly Rule[] = [
  {
    kind: 'noData',
    key: 'no-data',
    name: 'Nothing heard',
    why: 'Three missed intervals in a row are no accident.',
    scope: of(null),
    intervals: 3,
    severity: 'warning',
  },
  state(
    {
      key: 'part-health',
      name: 'Health a device reports of itself',
      why: 'The device knows its own parts best; one report is enough.',
      measure: 'hw.status',
      scope: of(null),
    },
    { 1: 'warning', 2: 'critical' },
  ),
  state(
    {
      key: 'not-reached',
      name: 'A service is not reached',
      why: 'Two tries in a row rule out a single lost packet.',
      measure: 'net.reachable',
      scope: of(null),
    },
    { 0: 'critical' },
    ofLast(2, 2),
  ),
  level(
    {
      key: 'certificate-ends',
      name: 'A certificate runs out',
      why: 'Three weeks are enough to renew one without haste; with a few days left it is somebody’s job today.',
      measure: 'net.certificate.days_left',
      scope: of(null),
    },
    'below',
    { warning: 21, critical: 5, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'answer-slow',
      name: 'A service answers slowly',
      why: 'What takes a second is felt by whoever waits for it; half of the tries rule out a busy moment.',
      measure: 'net.response_time',
      scope: of('service'),
    },
    'above',
    { warning: 1000, critical: null, back: 200, persistence: ofLast(3, 6) },
  ),
  level(
    {
      key: 'packets-lost',
      name: 'Packets are lost on the way',
      why: 'A tenth lost makes every connection crawl.',
      measure: 'net.loss',
      scope: of(null),
    },
    'above',
    { warning: 0.1, critical: 0.5, persistence: ofLast(3, 6) },
  ),
]
