import type { VisitState } from '../procedures/procedure.ts'
import type { Step } from '../procedures/step.ts'
import { isFahrenheit } from '../quantities/typedTemperature.ts'

/** Where standards usually stand, degC (common practice, no source). */
export const ROOM_TEMPERATURE = 22

/** Whether a temperature typed without its unit is one in °F, at this step. */
export const typedInFahrenheit = ({ setup }: VisitState, step: Step | null, typed: number): boolean =>
  isFahrenheit(typed, step?.medium === 'standard' ? ROOM_TEMPERATURE : setup.processTemperature)

/** The temperature that is taken where none is typed, and where it comes from. */
export interface AssumedTemperature {
  /** degC */
  value: number
  from: 'earlier' | 'usual'
}

/**
 * What a reading's temperature is taken to be when nobody types one: in the process the usual one; otherwise that of this
 * point before, of the same standard, or of the cup before, within one level of temperature. Null where it has to be read.
 */
export function assumedTemperature({ setup, readings, counting }: VisitState, step: Step): AssumedTemperature | null {
  if (step.medium === 'process') return { value: setup.processTemperature, from: 'usual' }
  const code = step.role ? setup.standards[step.role]?.code : undefined
  const beside = Object.entries(readings)
    .filter(([key, { standard }]) => standard && (step.sameLevel?.includes(key) ?? true))
    .map(([, reading]) => reading)
  const earlier = counting[step.key]?.at(-1) ?? beside.findLast((r) => r.standard?.code === code) ?? beside.at(-1)
  return earlier ? { value: earlier.temperature, from: 'earlier' } : null
}
