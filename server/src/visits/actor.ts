/** Who acts on a visit, and when. */
export interface Actor {
  clientId: string
  operator: string
  /** The same for every try of one action. */
  actionId?: string | undefined
  /** Identifies the request that the action came with: see fingerprintOf. */
  fingerprint?: string | undefined
  /** Epoch ms of an action that waited for the network. */
  madeAt?: number | undefined
}
