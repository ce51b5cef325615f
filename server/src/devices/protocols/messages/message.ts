import type { Mapping } from '@frustum/contract'

export const MESSAGE_FORMATS = ['number', 'json', 'senml', 'xml', 'csv', 'line'] as const
export type MessageFormat = (typeof MESSAGE_FORMATS)[number]

/** Where a number is in a message, and the topic it comes under where there are several. */
export type FieldPlace = {
  /** Of a broker: the topic, below or equal to the filter of the device. */
  topic?: string | undefined
  /**
   * A JSON pointer (RFC 6901), in XML as well, empty for a payload that is the plain number; the name of a SenML record;
   * the heading of a column; measurement with its tags, a slash, and the field of a line.
   */
  field: string
}

/** A mapping whose places are fields. */
export interface FieldMapping extends Mapping {
  format?: MessageFormat | undefined
  /** Where the time is, where the format does not name it by itself. */
  time?: FieldPlace | undefined
}

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
