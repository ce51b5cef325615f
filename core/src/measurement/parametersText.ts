import type { CalibrationParameters, MeasurementModel } from './measurementModel.ts'

/** The parameters of a calibration in one line: "slope 96.4 %, zero -7.6 mV". */
export function parametersText({ parameters }: Pick<MeasurementModel, 'parameters'>, c: CalibrationParameters): string {
  return parameters
    .flatMap(({ key, label, unit, decimals, scale }) => {
      const value = c[key]
      return value === undefined
        ? []
        : [`${label[0]?.toLowerCase()}${label.slice(1)} ${(value * scale).toFixed(decimals)} ${unit}`.trim()]
    })
    .join(', ')
}
