import type { BodyOf, ENDPOINTS, VisitActionName } from '@frustum/contract/endpoints'

/** Who acts, and when: the same for every action on a visit. */
export interface Acting {
  clientId: string
  operator: string
  actionId: string
  madeAt: number
}
export type VisitActionBody<A extends VisitActionName> = Omit<BodyOf<(typeof ENDPOINTS)[A]>, keyof Acting>

/** One action on a visit, with its body. */
export type VisitAction = {
  [A in VisitActionName]: { id: string; action: A; body: VisitActionBody<A> }
}[VisitActionName]
