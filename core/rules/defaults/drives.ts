import { ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { level, MINUTE, of, rising, state } from './making.ts'

/** What is counted is counted for good: only what is new within so long is news. */
const GROWING_MS = 60 * MINUTE

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
  state(
    {
      key: 'drive-read-only',
      name: 'Drive read-only',
      why: 'It takes no more writes: what it holds can still be read, and should be moved now.',
      measure: 'hw.drive.read_only',
      scope: of(null, 'drive'),
    },
    { 1: 'critical' },
  ),
  level(
    {
      key: 'drive-spare-threshold',
      name: 'Spare of a drive under its threshold',
      why: 'Its maker has said where the spare of this drive ends; below that it warns by itself.',
      measure: 'hw.drive.spare_margin',
      scope: of(null, 'drive'),
    },
    'below',
    { warning: 0.05, critical: 0, persistence: ofLast(2, 2) },
  ),
  state(
    {
      key: 'drive-role',
      name: 'Drive rebuilding, or of another array',
      why: 'While a group rebuilds it may not be able to lose one more; a drive of another array is not taken in by itself.',
      measure: 'hw.drive.role',
      scope: of(null, 'drive'),
    },
    { 2: 'warning', 7: 'warning' },
  ),
  level(
    {
      key: 'drive-uncorrectable',
      name: 'Uncorrectable errors of a drive',
      why: 'Data that the drive could not give back. A group has it a second time; a single drive has lost it.',
      measure: 'hw.drive.uncorrectable',
      scope: of(null, 'drive'),
    },
    'above',
    { warning: 0, critical: 10, persistence: ofLast(2, 2) },
  ),
  rising(
    {
      key: 'drive-reallocated-grows',
      name: 'Reallocated sectors grow',
      why: 'One sector is no harm; a number that grows within an hour comes before a failure.',
      measure: 'hw.drive.reallocated',
      scope: of(null, 'drive'),
    },
    { withinMs: GROWING_MS, warning: 0.5, critical: 20, persistence: ofLast(2, 2) },
  ),
  rising(
    {
      key: 'drive-media-errors-grow',
      name: 'Media errors grow',
      why: 'Old errors are known; new ones mean that the media is giving way now.',
      measure: 'hw.drive.media_errors',
      scope: of(null, 'drive'),
    },
    { withinMs: GROWING_MS, warning: 0.5, critical: 20, persistence: ofLast(2, 2) },
  ),
  rising(
    {
      key: 'drive-link-errors-grow',
      name: 'Errors on the cable of a drive grow',
      why: 'The cable or its plug, rarely the drive: reseat it before anything is replaced.',
      measure: 'hw.drive.link_errors',
      scope: of(null, 'drive'),
    },
    { withinMs: GROWING_MS, warning: 4.5, critical: null, persistence: ofLast(2, 2) },
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
