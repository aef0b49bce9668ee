import { ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { level, of, state } from './making.ts'

/** Drives. */
export const DRIVES: readonly Rule[] = [
  level(
    {
      key: 'drive-worn',
      name: 'Drive nearly worn out',
      why: 'At a quarter of its life left there is still time to order a replacement.',
      measure: 'hw.drive.life_left',
      scope: of(null, 'drive'),
    },
    'below',
    { warning: 0.25, critical: 0.05, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'drive-spare',
      name: 'Spare blocks of a drive nearly used',
      why: 'A drive that has used its spare turns read-only at best.',
      measure: 'hw.drive.spare',
      scope: of(null, 'drive'),
    },
    'below',
    { warning: 0.3, critical: 0.1, persistence: ofLast(2, 2) },
  ),
  state(
    {
      key: 'drive-predicts-failure',
      name: 'Drive predicts its own failure',
      why: 'A failed drive at best turns read-only and at worst takes the data.',
      measure: 'hw.drive.predicted_failure',
      scope: of(null, 'drive'),
    },
    { 1: 'critical' },
  ),
  level(
    {
      key: 'drive-pending',
      name: 'Sectors wait to be reallocated',
      why: 'Each is a piece of data that could not be read; more than a few are the beginning of the end.',
      measure: 'hw.drive.pending',
      scope: of(null, 'drive'),
    },
    'above',
    { warning: 0, critical: 50, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'drive-hot',
      name: 'Drive hot',
      why: 'Drives wear out faster above 55 °C and throttle themselves near 70 °C.',
      measure: 'hw.temperature',
      scope: of(null, 'drive'),
    },
    'above',
    { warning: 58, critical: 68, back: 2, persistence: ofLast(3, 4) },
  ),
]
