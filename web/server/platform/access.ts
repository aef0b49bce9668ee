import type { Role } from '#core/accounts'
import { screenOf } from '../../screens.ts'

/** Pages that need no session. */
const OPEN = new Set([
  '/sign-in',
  '/sign-in/code',
  '/sign-in/directory',
  '/sign-in/directory/back',
  '/welcome/[token]',
  '/calendar/[token]',
  '/setup',
  '/healthz',
  '/readyz',
])

/** Reading that needs more than the screen it belongs to. */
const READS: Readonly<Record<string, Role>> = {
  '/(app)/sources/connect': 'administer',
  '/(app)/sources/look': 'administer',
  '/(app)/sources/many': 'administer',
  '/(app)/sources/csv': 'administer',
  '/(app)/kit': 'administer',
  '/(app)/alerts/rules/new': 'administer',
  '/(app)/alerts/callouts/new': 'administer',
  '/(app)/alerts/callouts/[id]': 'administer',
  '/(app)/alerts/callouts/channels': 'administer',
  '/(app)/alerts/callouts/teams': 'administer',
  '/(app)/alerts/callouts/self-monitoring': 'administer',
}

/** Everything that changes something, by route and form action. What is not listed is for administrators. */
const CHANGES: Readonly<Record<string, Role>> = {
  '/(app)/past?/keep': 'operate',
  '/(app)/past?/deleteView': 'operate',
  '/(app)/past/quiet?/addJob': 'operate',
  '/(app)/past/quiet?/deleteJob': 'operate',
  '/(app)/ahead/calendar?/add': 'see',
  '/(app)/ahead/calendar?/delete': 'see',
  '/(app)/ahead/[id]?/order': 'operate',
  '/(app)/ahead/[id]?/endOrder': 'operate',
  '/(app)/ahead/[id]?/mark': 'operate',
  '/(app)/sign-out': 'see',
  '/(app)/own?/rename': 'see',
  '/(app)/own?/theme': 'see',
  '/(app)/own?/temperatures': 'see',
  '/(app)/own?/password': 'see',
  '/(app)/own?/begin': 'see',
  '/(app)/own?/confirm': 'see',
  '/(app)/own?/endFactor': 'see',
  '/(app)/own?/codes': 'see',
  '/(app)/own?/endSession': 'see',
  '/(app)/own?/endOthers': 'see',
  '/(app)/own?/newToken': 'see',
  '/(app)/own?/dropToken': 'see',
  '/(app)/alerts/[id]/take': 'operate',
  '/(app)/alerts?/take': 'operate',
  '/(app)/alerts?/quiet': 'operate',
  '/(app)/alerts?/accept': 'operate',
  '/(app)/gear?/quiet': 'operate',
  '/(app)/gear?/accept': 'operate',
  '/(app)/alerts/[id]?/comment': 'operate',
  '/(app)/alerts/[id]?/quiet': 'operate',
  '/(app)/alerts/[id]?/accept': 'operate',
  '/(app)/alerts/[id]?/loud': 'operate',
  '/(app)/alerts/quiet?/add': 'operate',
  '/(app)/alerts/quiet?/end': 'operate',
  '/(app)/sources/[id]/check': 'operate',
}

/** The role that a request needs; `null` for what is open to all. Decided here for every route, before it runs. */
export function neededRole(routeId: string | null, method: string, action: string | null): Role | null {
  if (routeId !== null && OPEN.has(routeId)) return null
  if (method === 'GET' || method === 'HEAD')
    return READS[routeId ?? ''] ?? screenOf(routeId ?? '')?.least ?? 'see'
  return CHANGES[`${routeId ?? ''}${action === null ? '' : `?/${action}`}`] ?? 'administer'
}
