import { type IonCalibration, ionCharacteristicAt } from '../../calibration/ionCalibration.ts'
import { IONS, toMilligrams, toMolar } from '../../chemistry/ions.ts'
import { type IonCharacteristic, ionToMillivolts, millivoltsToIon } from '../../electrode/ionSelective.ts'
import type { CalibrationParameters, DeviceSetting, MeasurementModel } from '../../measurement/measurementModel.ts'
import { requireWithin } from '../../quantities/outOfRange.ts'
import { plainPreset } from '../../stability/presets.ts'
import { ionStandard, ionStandardValue } from '../../standards/ionStandards.ts'
import { ION_MILLIVOLTS } from './presets.ts'

const ionOf = (device: DeviceSetting) => IONS[device.ion ?? 'chloride']

const certain = (value: number) => ({ value, uncertainty: 0, contributions: [] })

/** E0 and slope of an ion electrode at a temperature, its two levels joined by a straight line. */
export function ionElectrodeAt(
  c: CalibrationParameters,
  temperature: number,
  device: DeviceSetting,
): IonCharacteristic {
  const charge = ionOf(device).charge
  const { temperature: t1, temperature2: t2 } = c
  if (t1 === undefined || t2 === undefined) {
    return { zero: c.zero ?? 0, slopeEfficiency: c.slopeEfficiency ?? 1, charge }
  }
  const level = (at: number, zero: number, slopeEfficiency: number) => ({
    temperature: at,
    zero: certain(zero),
    slopeEfficiency: certain(slopeEfficiency),
    covariance: 0,
  })
  const calibration: IonCalibration = {
    charge,
    levels: [level(t1, c.zero ?? 0, c.slopeEfficiency ?? 1), level(t2, c.zero2 ?? 0, c.slopeEfficiency2 ?? 1)],
  }
  const [low, high] = [Math.min(t1, t2) - 10, Math.max(t1, t2) + 10]
  // Beyond the levels' reach the nearest end stands for it: a reading in passing must not be refused.
  return ionCharacteristicAt(calibration, Math.min(high, Math.max(low, temperature)))
}

/** mg/L, as activity, behind a signal. */
const activityBehind = (signal: number, temperature: number, c: CalibrationParameters, device: DeviceSetting) =>
  toMilligrams(
    Math.min(15, millivoltsToIon(signal, temperature, ionElectrodeAt(c, temperature, device))),
    ionOf(device),
  )

const signalOf = (value: number, temperature: number, c: CalibrationParameters, device: DeviceSetting) =>
  ionToMillivolts(
    Math.max(1e-8, toMolar(Math.max(0, value), ionOf(device))),
    temperature,
    ionElectrodeAt(c, temperature, device),
  )

const SLOPE = {
  unit: '%',
  decimals: 1,
  scale: 100,
  low: 10,
  high: 150,
  // Of a tip, wider than of glass (common practice, no source).
  sound: [88, 104],
  limits: [{ value: 75, word: 'replace' }],
} as const
const POTENTIAL = { unit: 'mV', decimals: 1, scale: 1, low: -1000, high: 1000 } as const
const LEVEL = { label: 'at', unit: '°C', decimals: 1, scale: 1, low: 0, high: 50, condition: true } as const

export const ION_MODEL: MeasurementModel = {
  quantity: (device) => ionOf(device).label,
  ideal: { zero: 0, slopeEfficiency: 1 },
  parameters: [
    { ...SLOPE, key: 'slopeEfficiency', label: 'Slope' },
    { ...POTENTIAL, key: 'zero', label: 'Standard potential' },
    { ...LEVEL, key: 'temperature' },
    { ...SLOPE, key: 'slopeEfficiency2', label: 'Slope, second level', secondLevel: true },
    { ...POTENTIAL, key: 'zero2', label: 'Standard potential, second level', secondLevel: true },
    { ...LEVEL, key: 'temperature2' },
  ],
  signalScale: () => ({ unit: 'mV', decimals: 1, factor: 1 }),
  signalUnit: 'mV',
  coreUnit: 'mg/L',
  shownScale: () => ({ unit: 'mg/L', decimals: 1, factor: 1 }),
  shownRange: () => ({ low: 0, high: 100_000 }),
  toShown: activityBehind,
  fromShown: (shown, temperature, c, device) =>
    signalOf(requireWithin('Concentration shown', shown, 1e-4, 1e6, 'mg/L'), temperature, c, device),
  signalOf,
  valueOf: activityBehind,
  standardValue: (code, temperature, device) => {
    const value = ionStandardValue(ionStandard(code), temperature)
    return device.expects === 'concentration' ? value.concentration : value.activity
  },
  errorScale: { unit: '%', decimals: 1, factor: 1 },
  errorAt: (actual, activeCalibration, { value, temperature }, device) => {
    const signal = signalOf(value, temperature, actual, device)
    return 100 * (activityBehind(signal, temperature, activeCalibration, device) / value - 1)
  },
  errorOf: (value, is) => 100 * (value / Math.max(is, 1e-9) - 1),
  preset: (level, judged) => (judged === 'signal' ? ION_MILLIVOLTS : plainPreset(level)),
  distance: (a, b) => Math.abs(Math.log10(Math.max(a, 1e-6) / Math.max(b, 1e-6))),
  wrongCup: { miss: 0.4, near: 0.25 },
  moved: 0.12,
  usualDrift: { rateSd: 12 / 30, walk: 6 ** 2 / 30 },
}
