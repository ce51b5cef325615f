import { fromEh } from '../electrode/referenceElectrodes.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { plainPreset, STABILITY_PRESETS } from '../stability/presets.ts'
import { type OrpStandardCode, orpStandardEh, orpStandardReading } from '../standards/orpStandards.ts'
import type { CalibrationParameters, MeasurementModel, ParameterSpec, SensorKind } from './measurementModel.ts'

const gainOf = (c: CalibrationParameters) => requireWithin('Gain', c.gain ?? 1, 0.02, 50)
const offsetOf = (c: CalibrationParameters) => c.offset ?? 0

/** right = gain x signal + offset. */
const right = (signal: number, c: CalibrationParameters) => gainOf(c) * signal + offsetOf(c)
const behind = (value: number, c: CalibrationParameters) => (value - offsetOf(c)) / gainOf(c)

const GAIN: ParameterSpec = {
  key: 'gain',
  label: 'Slope factor',
  unit: '%',
  decimals: 1,
  scale: 100,
  low: 10,
  high: 1000,
}

interface LinearKind {
  kind: SensorKind
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

function linear(k: LinearKind): MeasurementModel {
  const scale = { unit: k.unit, decimals: k.decimals, factor: 1 }
  return {
    kind: k.kind,
    quantity: () => k.quantity,
    ideal: Object.fromEntries(k.parameters.map((p) => [p.key, p.key === 'gain' ? 1 : 0])),
    parameters: k.parameters,
    signalScale: () => scale,
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

const noStandard = (code: string): never => {
  throw new RangeError(`"${code}" is no standard for this sensor.`)
}

export const ORP_CHANNEL: MeasurementModel = linear({
  kind: 'orp',
  quantity: 'ORP',
  unit: 'mV',
  decimals: 0,
  parameters: [
    { ...GAIN, label: 'Gain', low: 50, high: 150 },
    { key: 'offset', label: 'Offset', unit: 'mV', decimals: 1, scale: 1, low: -300, high: 300 },
  ],
  preset: () => STABILITY_PRESETS.orp,
  standardValue: (code, temperature, device) =>
    device.reference
      ? orpStandardReading(code as OrpStandardCode, device.reference, temperature)
      : fromEh(orpStandardEh(code as OrpStandardCode, temperature), 'agcl-3M', temperature),
  wrongCup: { miss: 100, near: 60 },
  moved: 20,
  usualDrift: { rateSd: 8 / 30, walk: 4 ** 2 / 30 },
  range: { low: -2000, high: 2000 },
  check: (value) => requireWithin('ORP', value, -2000, 2000, 'mV'),
})

const milligrams = (kind: 'chlorine' | 'nitrate-optical', quantity: string, decimals: number): MeasurementModel =>
  linear({
    kind,
    quantity,
    unit: 'mg/L',
    decimals,
    parameters: [GAIN, { key: 'offset', label: 'Offset', unit: 'mg/L', decimals: 3, scale: 1, low: -1000, high: 1000 }],
    preset: (level) => plainPreset(level),
    standardValue: noStandard,
    wrongCup: { miss: Number.POSITIVE_INFINITY, near: 0 },
    moved: 0.1,
    usualDrift:
      kind === 'chlorine' ? { rateSd: 0.06 / 30, walk: 0.03 ** 2 / 30 } : { rateSd: 1 / 30, walk: 0.6 ** 2 / 30 },
    range: { low: 0, high: kind === 'chlorine' ? 50 : 500 },
    check: (value) => requireWithin(quantity, value, -1e4, 1e5, 'mg/L'),
  })

export const CHLORINE_CHANNEL = milligrams('chlorine', 'Free chlorine', 2)
export const OPTICAL_NITRATE_CHANNEL = milligrams('nitrate-optical', 'Nitrate-N', 2)

export const TEMPERATURE_CHANNEL: MeasurementModel = linear({
  kind: 'temperature',
  quantity: 'Temperature',
  unit: '°C',
  decimals: 1,
  parameters: [{ key: 'offset', label: 'Offset', unit: '°C', decimals: 2, scale: 1, low: -20, high: 20 }],
  preset: () => STABILITY_PRESETS.temperature,
  standardValue: noStandard,
  wrongCup: { miss: Number.POSITIVE_INFINITY, near: 0 },
  moved: 0.5,
  usualDrift: { rateSd: 0.05 / 30, walk: 0.03 ** 2 / 30 },
  range: { low: -10, high: 110 },
  check: (value) => requireWithin('Temperature', value, -50, 250, '°C'),
})
