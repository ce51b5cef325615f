import { requireWithin } from '../quantities/outOfRange.ts'
import type { CalibrationParameters, MeasurementModel, ParameterSpec } from './measurementModel.ts'

const gainOf = (c: CalibrationParameters) => requireWithin('Gain', c.gain ?? 1, 0.02, 50)
const offsetOf = (c: CalibrationParameters) => c.offset ?? 0

/** right = gain x signal + offset. */
const right = (signal: number, c: CalibrationParameters) => gainOf(c) * signal + offsetOf(c)
const behind = (value: number, c: CalibrationParameters) => (value - offsetOf(c)) / gainOf(c)

export const GAIN: ParameterSpec = {
  key: 'gain',
  label: 'Slope factor',
  unit: '%',
  decimals: 1,
  scale: 100,
  low: 10,
  high: 1000,
}

interface LinearQuantity {
  quantity: string
  unit: string
  decimals: number
  parameters: readonly ParameterSpec[]
  preset: MeasurementModel['preset']
  standardValue: MeasurementModel['standardValue']
  wrongCup: MeasurementModel['wrongCup']
  moved: number
  usualDrift: MeasurementModel['usualDrift']
  range: { low: number; high: number }
  check: (value: number) => number
}

/** A sensor that is read straight: right = gain x signal + offset, both in the unit of the display. */
export function linearModel(k: LinearQuantity): MeasurementModel {
  const scale = { unit: k.unit, decimals: k.decimals, factor: 1 }
  return {
    quantity: () => k.quantity,
    ideal: Object.fromEntries(k.parameters.map((p) => [p.key, p.key === 'gain' ? 1 : 0])),
    parameters: k.parameters,
    signalScale: () => scale,
    signalUnit: k.unit,
    coreUnit: k.unit,
    shownScale: () => scale,
    shownRange: () => k.range,
    toShown: (signal, _t, activeCalibration) => right(k.check(signal), activeCalibration),
    fromShown: (shown, _t, activeCalibration) => behind(k.check(shown), activeCalibration),
    signalOf: (value, _t, actual) => behind(k.check(value), actual),
    valueOf: (signal, _t, actual) => right(k.check(signal), actual),
    standardValue: k.standardValue,
    errorScale: scale,
    errorAt: (actual, activeCalibration, { value }) => right(behind(value, actual), activeCalibration) - value,
    errorOf: (value, is) => value - is,
    preset: k.preset,
    distance: (a, b) => Math.abs(a - b),
    wrongCup: k.wrongCup,
    moved: k.moved,
    usualDrift: k.usualDrift,
  }
}

/** For kinds without bottled standards. */
export const noStandard = (code: string): never => {
  throw new RangeError(`"${code}" is no standard for this sensor.`)
}
