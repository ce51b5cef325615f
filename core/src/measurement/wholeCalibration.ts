import type { CalibrationParameters, MeasurementModel } from './measurementModel.ts'

/** Whether all is known that a device computes with; of some calibrations of the past only the slope was noted. */
export const isWhole = ({ parameters }: Pick<MeasurementModel, 'parameters'>, c: CalibrationParameters): boolean =>
  parameters.every(({ key, condition, secondLevel }) => condition || secondLevel || c[key] !== undefined)
