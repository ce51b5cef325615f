import type { FieldSpec } from '@frustum/core'
import { numberFrom, UnreadableNumber } from './decimalMark.ts'
import type { Scalar } from './mapping.ts'

/** The key of a protocol, such as modbus-tcp. The server's registry of protocols knows them all. */
export type Protocol = string

/** A field of a protocol's form. Its key is a path in what is sent: `settings.host`, `address.unit`, `at.table`. */
export interface ProtocolField extends FieldSpec {
  /** What is sent is the number typed times this: 1000 for seconds that are kept in ms. */
  factor?: number
  /** choice: the values are numbers. */
  numeric?: boolean
  /** text: several, separated by commas or spaces, and sent as a list. */
  list?: boolean
  /** Rarely needed: behind "More settings". */
  advanced?: boolean
  /** A number of a place that counts from the value of this option, where devices count from 0. */
  countsFrom?: string
  /** Other ways to write it: the pattern, whose first group is meant, and what it says of the place and the options. */
  shorthands?: readonly ProtocolShorthand[]
}

interface ProtocolShorthand {
  pattern: string
  place: Readonly<Record<string, string>>
  options: Readonly<Record<string, string>>
}

/** What a mapping of some protocols consists of, as a form has it. */
export interface MappingForm {
  /** Named in a mapping file: a mapping fits every protocol of the same family. */
  family: string
  /** Keys below `mapping`. */
  options: readonly ProtocolField[]
  /** Keys below a channel. */
  place: readonly ProtocolField[]
  /** Keys below `mapping.status`. */
  status: { title: string; fields: readonly ProtocolField[] }
  /** Keys below a parameter and below `mapping.hold`; null where nothing can be written. */
  parameter: readonly ProtocolField[] | null
  hold: readonly ProtocolField[] | null
}

/** All that a browser needs to set up a connection of one protocol, without knowing which protocols there are. */
export interface ProtocolForm {
  key: Protocol
  name: string
  settings: readonly ProtocolField[]
  address: readonly ProtocolField[]
  mapping: MappingForm
  /** Frustum asks; otherwise the device sends when it likes. */
  polled: boolean
  /** Each device has an ingest address of its own. */
  ownAddress: boolean
  /** How the finder works here. */
  finder: string
}

/** Thrown for a field without a readable number, with the field's path. */
export class UnreadableField extends Error {
  constructor(
    readonly path: string,
    message: string,
  ) {
    super(message)
    this.name = 'UnreadableField'
  }
}

/** Whether a field is asked for, by the values of the fields it depends on. */
export const isAskedOf = ({ when }: ProtocolField, textOf: (path: string) => unknown): boolean =>
  !when || when.is.some((value) => String(value) === String(textOf(when.key) ?? ''))

/**
 * The value of a field as it is sent.
 * @param text what is in the form
 * @returns undefined for an empty field
 * @throws UnreadableField
 */
export function sentValue(field: ProtocolField, text: unknown): Scalar | Scalar[] | undefined {
  const { key, kind, factor = 1, numeric, list } = field
  if (kind === 'tick') return text === true || undefined
  const typed = String(text ?? '').trim()
  if (list) {
    const parts = typed.split(/[\s,;]+/).filter((part) => part !== '')
    return parts.length === 0 ? undefined : parts.map((part) => sentValue({ ...field, list: false }, part) as Scalar)
  }
  if (kind !== 'number') return typed === '' ? undefined : numeric ? Number(typed) : typed
  try {
    const number = numberFrom(typed)
    return number === undefined ? undefined : number * factor
  } catch (problem) {
    throw problem instanceof UnreadableNumber ? new UnreadableField(key, problem.message) : problem
  }
}

/** A value as it is in the form before anything is typed: what is stored, or the field's default. */
export function formText({ kind, usual = '', factor = 1 }: ProtocolField, stored: unknown): string | boolean {
  if (kind === 'tick') return stored === true
  if (stored === undefined || stored === null) return String(usual)
  if (Array.isArray(stored)) return stored.join(', ')
  return typeof stored === 'number' ? String(Number((stored / factor).toPrecision(12))) : String(stored)
}
