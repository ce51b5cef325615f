import type { CalibrationParameters, MeasurementModel } from './measurementModel.ts'

type Model = Pick<MeasurementModel, 'parameters' | 'ideal'>

/** Whether all is known that a device computes with; of some calibrations of the past only the slope was noted. */
export const isWhole = ({ parameters }: Pick<MeasurementModel, 'parameters'>, c: CalibrationParameters): boolean =>
  parameters.every(({ key, condition, secondLevel }) => condition || secondLevel || c[key] !== undefined)

/** Parameters of a calibration that nobody knows; empty where it is whole. */
export const unknownIn = ({ parameters }: Pick<MeasurementModel, 'parameters'>, c: CalibrationParameters): string[] =>
  parameters
    .filter(({ key, condition, secondLevel }) => !condition && !secondLevel && c[key] === undefined)
    .map(({ key }) => key)

/** A calibration with an ideal sensor's parameters in place of the unknown ones. */
export const completed = ({ ideal }: Model, c: CalibrationParameters): CalibrationParameters => ({ ...ideal, ...c })

/** Parameters that are added to a signal; the others multiply it. */
const isAdded = (key: string) => key.startsWith('zero') || key === 'offset'

/**
 * What readings of a display alone tell of a sensor when some parameters of the device's calibration are unknown. An
 * unknown zero hides the sensor's zero; an unknown slope or factor hides everything.
 * @example tellable({ slopeEfficiency: 0.97, zero: -4 }, ['zero']) // { slopeEfficiency: 0.97 }
 */
export const tellable = (c: CalibrationParameters, unknown: readonly string[]): CalibrationParameters =>
  unknown.length === 0
    ? c
    : Object.fromEntries(Object.entries(c).filter(([key]) => unknown.every(isAdded) && !isAdded(key)))
