import type { Role } from '@frustum/core'
import type { ReactNode } from 'react'
import { useMay } from '../store/me.ts'

/** What only people of a role can use; others don't see it. The top of the page tells them why. */
export function For({ needs, children }: { needs: Role; children: ReactNode }) {
  return useMay(needs) ? children : null
}
