/** What an account may do; each may do what the ones before it may. */
export const ROLES = ['see', 'operate', 'administer'] as const
export type Role = (typeof ROLES)[number]

export const mayDo = (role: Role, needed: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(needed)

/** Of two the one that may less. */
export const lesserRole = (a: Role, b: Role): Role => (mayDo(a, b) ? b : a)

export const asRole = (text: string | null | undefined): Role => ROLES.find((role) => role === text) ?? 'see'
