import type { MessageFormat } from '@frustum/contract'

export type Scalar = number | string | boolean | null

/** One field of a message: where it stands, what stands there, and the unit where the message names it. */
export interface Leaf {
  field: string
  value: Scalar
  unit: string
}

/** What a message says of one moment. */
export interface MessageRecord {
  /** Epoch ms; null where it says none. */
  at: number | null
  /** Undefined where there is no such field. */
  find(field: string): Scalar | undefined
  leaves(): Leaf[]
}

/** How a message is read. */
export interface Reading {
  format: MessageFormat
  /** Field in which its time stands, where the format does not say. */
  time?: string | undefined
  /** Epoch ms when it came. */
  now: number
}

/** Why a message is none, in a sentence. */
export class PayloadProblem extends Error {}
