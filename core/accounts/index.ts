export { differenceLines, type DifferingRow } from './recordLines.ts'
export { type DirectoryRoles, roleByGroups } from './directory.ts'
export { asRole, lesserRole, mayDo, type Role, ROLES } from './role.ts'
