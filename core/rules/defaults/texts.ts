import type { Rule } from '../rule.ts'
import { MINUTE, of } from './making.ts'

/** What devices say. */
export const TEXTS: readonly Rule[] = [
  {
    kind: 'text',
    key: 'device-alarmed',
    name: 'A device reports an emergency in its log',
    why: 'Emergency, alert and critical are the three that RFC 5424 keeps for what cannot wait.',
    scope: of(null),
    pattern: '*',
    atMost: 2,
    count: 1,
    windowMs: 15 * MINUTE,
    severity: 'warning',
  },
  {
    kind: 'text',
    key: 'device-emergency',
    name: 'A device reports that it is unusable',
    why: 'RFC 5424 keeps emergency for a system that is unusable: nobody writes it for less.',
    scope: of(null),
    pattern: '*',
    atMost: 0,
    count: 1,
    windowMs: 15 * MINUTE,
    severity: 'critical',
  },
]
