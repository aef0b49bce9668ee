import { ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { level, of, state } from './making.ts'

/** Space. */
export const SPACE: readonly Rule[] = [
  level(
    {
      key: 'store-full',
      name: 'Datastore filling',
      why: 'The line sits low because rebuilding after a failed drive needs about a fifth of the space free.',
      measure: 'system.filesystem.utilization',
      scope: of('store'),
    },
    'above',
    { warning: 0.78, critical: 0.82, back: 0.005, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'pool-full',
      name: 'Pool of an array filling',
      why: 'Capacity that is promised twice cannot be bought in a day: early is in time.',
      measure: 'system.filesystem.utilization',
      scope: of('array', 'pool'),
    },
    'above',
    { warning: 0.8, critical: 0.9, back: 0.01, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'filesystem-full',
      name: 'File system filling',
      why: 'What logs or works in it stops when it is full; the last tenth goes fast.',
      measure: 'system.filesystem.utilization',
      scope: of(null, 'filesystem'),
    },
    'above',
    { warning: 0.9, critical: 0.97, back: 0.01, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'volume-full',
      name: 'Volume filling',
      why: 'A container that cannot write is restarted again and again, to no avail.',
      measure: 'system.filesystem.utilization',
      scope: of('volume'),
    },
    'above',
    { warning: 0.9, critical: 0.97, back: 0.01, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'inodes-used',
      name: 'Inodes of a volume nearly used',
      why: 'Without an inode there is no new file, however much space is left.',
      measure: 'system.filesystem.inodes.utilization',
      scope: of(null),
    },
    'above',
    { warning: 0.9, critical: 0.97, back: 0.01, persistence: ofLast(4, 6) },
  ),
  state(
    {
      key: 'claim-open',
      name: 'A claim of a volume is not bound',
      why: 'What waits for its volume does not start; a claim that is lost has lost its data with it.',
      measure: 'system.volume.claim',
      scope: of('volume'),
    },
    { 1: 'warning', 2: 'critical' },
    ofLast(3, 3),
  ),
]
