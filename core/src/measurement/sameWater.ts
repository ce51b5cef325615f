import type { MeasurementModel } from './measurementModel.ts'

/** Usual value of a water, in the core unit of the kind, and its temperature, degC. */
export interface Process {
  value: number
  temperature: number
}

/** A usual temperature that moves by no more than this leaves errors as they are, degC (common practice, no source). */
const SAME_TEMPERATURE = 5

/**
 * Whether what was found in one water says as well how a sensor errs in the other: its value moved by less than what
 * counts as put somewhere else, and its temperature by 5 degC at most (common practice, no source).
 */
export const isSameWater = ({ distance, moved }: MeasurementModel, a: Process, b: Process): boolean =>
  distance(a.value, b.value) <= moved && Math.abs(a.temperature - b.temperature) <= SAME_TEMPERATURE
