import { type Compensation, compensate, uncompensate } from '../../conductivity/compensation.ts'
import { practicalSalinity, seawaterConductivity } from '../../conductivity/practicalSalinity.ts'
import { GRAVITY_AT } from '../../conductivity/salinityScales.ts'
import { fromEcScale, reciprocal, toEcScale } from '../../conductivity/scales.ts'
import { salinityOfSpecificGravity, specificGravity } from '../../conductivity/seawaterDensity.ts'
import type {
  CalibrationParameters,
  ConductivityDisplay,
  DeviceSetting,
  MeasurementModel,
  Scale,
} from '../../measurement/measurementModel.ts'
import { requireWithin } from '../../quantities/outOfRange.ts'
import { conductivityStandardValue } from '../../standards/conductivityStandards.ts'
import { conductivityPreset } from './presets.ts'

const factorOf = (c: CalibrationParameters) => requireWithin('Cell factor', c.factor ?? 1, 0.01, 100)
const zeroOf = (c: CalibrationParameters) => c.zero ?? 0

const rightOf = (signal: number, c: CalibrationParameters) =>
  Math.max(0, factorOf(c) * (requireWithin('Conductivity', signal, -1e4, 2e6, 'µS/cm') - zeroOf(c)))
const signalOf = (value: number, c: CalibrationParameters) =>
  requireWithin('Conductivity', value, 0, 2e6, 'µS/cm') / factorOf(c) + zeroOf(c)

const RANGES: Record<ConductivityDisplay, { low: number; high: number }> = {
  'µS/cm': { low: 0, high: 300_000 },
  'mS/cm': { low: 0, high: 300 },
  'S/m': { low: 0, high: 30 },
  CF: { low: 0, high: 3000 },
  'ppm 500': { low: 0, high: 150_000 },
  'ppm 640': { low: 0, high: 190_000 },
  'ppm 700': { low: 0, high: 210_000 },
  salinity: { low: 0, high: 45 },
  'specific gravity': { low: 0.999, high: 1.033 },
  MΩ·cm: { low: 0.0001, high: 100 },
}

const SCALES: Record<ConductivityDisplay, Scale> = {
  'µS/cm': { unit: 'µS/cm', decimals: 1, factor: 1 },
  'mS/cm': { unit: 'mS/cm', decimals: 2, factor: 1 },
  'S/m': { unit: 'S/m', decimals: 3, factor: 1 },
  CF: { unit: 'CF', decimals: 1, factor: 1 },
  'ppm 500': { unit: 'ppm 500', decimals: 0, factor: 1 },
  'ppm 640': { unit: 'ppm 640', decimals: 0, factor: 1 },
  'ppm 700': { unit: 'ppm 700', decimals: 0, factor: 1 },
  salinity: { unit: 'PSU', decimals: 1, factor: 1 },
  'specific gravity': { unit: 'SG', decimals: 4, factor: 1 },
  MΩ·cm: { unit: 'MΩ·cm', decimals: 2, factor: 1 },
}

const compensationOf = (device: DeviceSetting): Compensation => device.compensation ?? { law: 'none' }
const displayOf = (device: DeviceSetting): ConductivityDisplay => device.display ?? 'µS/cm'

/**
 * What a device with this setting shows for a conductivity, in its own unit.
 * @param conductivity uS/cm as it is at `temperature`
 * @throws OutOfRange
 */
export function conductivityOnDisplay(conductivity: number, temperature: number, device: DeviceSetting): number {
  const display = displayOf(device)
  switch (display) {
    case 'salinity':
    case 'specific gravity': {
      // In air a salinity display shows nothing at all.
      if (conductivity < 5) return display === 'salinity' ? 0 : specificGravity(0, GRAVITY_AT, GRAVITY_AT)
      // A device that does not compensate takes the water for one of 25 degC.
      const at = compensationOf(device).law === 'none' ? 25 : temperature
      const salinity = practicalSalinity(conductivity, at)
      return display === 'salinity' ? salinity : specificGravity(salinity, GRAVITY_AT, GRAVITY_AT)
    }
    case 'MΩ·cm':
      return reciprocal(Math.max(1e-3, compensate(conductivity, temperature, compensationOf(device)))) / 1e6
    default:
      return toEcScale(compensate(conductivity, temperature, compensationOf(device)), display)
  }
}

/** The conductivity behind a display, uS/cm as it is at `temperature`: the inverse of conductivityOnDisplay. @throws OutOfRange */
export function conductivityBehindDisplay(shown: number, temperature: number, device: DeviceSetting): number {
  const display = displayOf(device)
  switch (display) {
    case 'salinity':
    case 'specific gravity': {
      const salinity =
        display === 'salinity'
          ? requireWithin('Salinity shown', shown, 0, 45)
          : salinityOfSpecificGravity(shown, GRAVITY_AT, GRAVITY_AT)
      if (salinity < 0.02) return 0
      return seawaterConductivity(salinity, compensationOf(device).law === 'none' ? 25 : temperature)
    }
    case 'MΩ·cm':
      return uncompensate(reciprocal(1e6 * shown), temperature, compensationOf(device))
    default:
      return uncompensate(fromEcScale(shown, display), temperature, compensationOf(device))
  }
}

export const CONDUCTIVITY_MODEL: MeasurementModel = {
  quantity: ({ display }) =>
    display === 'salinity'
      ? 'Salinity'
      : display === 'specific gravity'
        ? 'Specific gravity'
        : display === 'MΩ·cm'
          ? 'Resistivity'
          : 'Conductivity',
  ideal: { factor: 1, zero: 0 },
  parameters: [
    { key: 'factor', label: 'Cell factor', unit: '', decimals: 4, scale: 1, low: 0.05, high: 20, sound: [0.9, 1.1] },
    { key: 'zero', label: 'Zero', unit: 'µS/cm', decimals: 3, scale: 1, low: -500, high: 500 },
  ],
  signalScale: (level) =>
    level < 20
      ? { unit: 'µS/cm', decimals: 4, factor: 1 }
      : level < 2000
        ? { unit: 'µS/cm', decimals: 1, factor: 1 }
        : { unit: 'mS/cm', decimals: level < 20_000 ? 3 : 2, factor: 1e-3 },
  signalUnit: 'µS/cm',
  coreUnit: 'µS/cm',
  shownScale: (device) => SCALES[displayOf(device)],
  shownRange: (device) => RANGES[displayOf(device)],
  toShown: (signal, temperature, activeCalibration, device) =>
    conductivityOnDisplay(rightOf(signal, activeCalibration), temperature, device),
  fromShown: (shown, temperature, activeCalibration, device) =>
    signalOf(conductivityBehindDisplay(shown, temperature, device), activeCalibration),
  signalOf: (value, _t, actual) => signalOf(value, actual),
  valueOf: (signal, _t, actual) => rightOf(signal, actual),
  standardValue: (code, temperature, _device, lotTable) => conductivityStandardValue(code, temperature, lotTable),
  errorScale: { unit: '%', decimals: 1, factor: 1 },
  errorAt: (actual, activeCalibration, { value }) =>
    100 * (rightOf(signalOf(value, actual), activeCalibration) / value - 1),
  errorOf: (value, is) => 100 * (value / Math.max(is, 1e-9) - 1),
  preset: (level) => conductivityPreset(level),
  distance: (a, b) => Math.abs(Math.log(Math.max(a, 1e-3) / Math.max(b, 1e-3))),
  wrongCup: { miss: 0.22, near: 0.14 },
  moved: 0.05,
  usualDrift: { rateSd: 1 / 30, walk: 0.6 ** 2 / 30 },
}
