import { CAUSE_WORDS, type Cause } from './causes.ts'
import type { Diagnosis } from './diagnose.ts'

/** What a sensor's own record points to, as it is known when a visit begins. */
export interface Diagnosed {
  cause: Cause
  name: string
  remedy: string
  /** 0 to 1 */
  probability: number
  /** Nothing that is done at a visit brings the sensor back. */
  final: boolean
}

/** A cause this likely is worth a word at the next visit (common practice, no source). */
const WORTH_SAYING = 0.5

/**
 * The cause that a diagnosis names, where it is likelier than all others together.
 * @returns null where nothing is wrong, or too little is known
 */
export function diagnosed({ ranked: [first] }: Pick<Diagnosis, 'ranked'>): Diagnosed | null {
  if (!first || first.cause === 'nothing' || first.probability < WORTH_SAYING) return null
  const { cause, name, remedy, probability } = first
  return { cause, name, remedy, probability, final: CAUSE_WORDS[cause].final ?? false }
}
