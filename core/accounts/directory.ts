import { type Role, ROLES } from './role.ts'

/** Groups of a directory by what they may. */
export type DirectoryRoles = Readonly<Record<Role, readonly string[]>>

/**
 * What somebody may whose directory tells of these groups: the most that any of them may; `null` when none of them may
 * anything. Names of groups are compared as they are, as a directory does.
 * @param claim as it came: a list of names, or one name
 */
export function roleByGroups(roles: DirectoryRoles, claim: unknown): Role | null {
  const groups = new Set((Array.isArray(claim) ? claim : [claim]).filter((each) => typeof each === 'string'))
  return ROLES.findLast((role) => roles[role].some((group) => groups.has(group))) ?? null
}
