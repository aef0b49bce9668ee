import type { Role } from '#core/accounts'

/** What each role may, for whoever chooses one. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  see: 'see',
  operate: 'operate: take alerts, check now',
  administer: 'administer everything',
}
