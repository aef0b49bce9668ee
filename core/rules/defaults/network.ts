import { lasting, ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { MINUTE, level, of, state } from './making.ts'

/** Network. */
export const NETWORK: readonly Rule[] = [
  state(
    {
      key: 'link-down',
      name: 'A port has lost its link',
      why: 'A port that never had one has lost none; one that had hangs something on it.',
      measure: 'hw.network.up',
      scope: of('switch', 'port'),
    },
    { 0: 'warning' },
    ofLast(2, 2),
    { after: 1 },
  ),
  level(
    {
      key: 'port-errors',
      name: 'A port counts errors',
      why: 'One a second is a bad cable or a bad module, and slows down all that goes over it.',
      measure: 'hw.network.errors',
      scope: of(null, 'port'),
    },
    'above',
    { warning: 1, critical: null, back: 0.5, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'link-full',
      name: 'A link is full',
      why: 'Above 80 % over minutes packets begin to wait for each other.',
      measure: 'hw.network.bandwidth.utilization',
      scope: of(null, 'port'),
    },
    'above',
    { warning: 0.8, critical: 0.95, back: 0.05, persistence: lasting(10 * MINUTE) },
  ),
]
