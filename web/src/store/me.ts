import { mayDo, type Role } from '@frustum/core'
import { useMeQuery } from './api.ts'

/** Whether whoever is here may do what a role may; where people do not sign in, everybody may everything. */
export function useMay(needs: Role): boolean {
  const { data: me } = useMeQuery()
  return !me?.signIn || (me.role !== null && mayDo(me.role, needs))
}
