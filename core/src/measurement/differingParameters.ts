import type { CalibrationParameters, MeasurementModel, ParameterSpec } from './measurementModel.ts'

/** A parameter in which two calibrations differ by more than a digit of the display. */
export interface ParameterDifference {
  parameter: ParameterSpec
  /** As stored; missing where the device holds none. */
  held: number | undefined
  given: number
}

/** What differs between the numbers a device holds and those it was given; a digit of the display is no difference. */
export function differingParameters(
  { parameters }: Pick<MeasurementModel, 'parameters'>,
  held: CalibrationParameters,
  given: CalibrationParameters,
): ParameterDifference[] {
  return parameters.flatMap((parameter) => {
    const { key, decimals, scale } = parameter
    const [is, should] = [held[key], given[key]]
    if (should === undefined) return []
    const apart = is === undefined ? Number.POSITIVE_INFINITY : Math.abs(is - should) * scale
    return apart > 10 ** -decimals ? [{ parameter, held: is, given: should }] : []
  })
}
