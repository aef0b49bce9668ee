export { asRole, mayDo, type Role, ROLES } from './role.ts'
