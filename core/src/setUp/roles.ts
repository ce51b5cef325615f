/** What people may do, from least to most; each may all that those before may. */
export const ROLES = {
  viewer: 'Viewer: looks at everything',
  operator: 'Operator: also visits, shelf, events',
  lead: 'Lead: also sensors, rules, people',
} as const

export type Role = keyof typeof ROLES

const ORDER = Object.keys(ROLES) as Role[]

/**
 * Whether somebody of a role may do what needs another.
 * @example mayDo('operator', 'viewer') // true
 */
export const mayDo = (role: Role, needs: Role): boolean => ORDER.indexOf(role) >= ORDER.indexOf(needs)

/**
 * The lesser of two roles.
 * @example atMost('lead', 'operator') // 'operator'
 */
export const atMost = (role: Role, limit: Role): Role => (mayDo(role, limit) ? limit : role)
