import { quantity, type Sentence, say } from '../quantities/sentence.ts'
import type { CalibrationParameters, MeasurementModel } from './measurementModel.ts'

/** The parameters of a calibration in one line: "slope 96.4 %, zero −7.6 mV". */
export function parametersSentence(
  { parameters }: Pick<MeasurementModel, 'parameters'>,
  c: CalibrationParameters,
): Sentence {
  const known = parameters.flatMap(({ key, label, unit, decimals, scale }) => {
    const value = c[key]
    const name = `${label[0]?.toLowerCase()}${label.slice(1)}`
    return value === undefined ? [] : [say`${name} ${quantity(value * scale, unit, decimals)}`]
  })
  return known.reduce<Sentence>((line, one) => (line === '' ? one : say`${line}, ${one}`), '')
}
