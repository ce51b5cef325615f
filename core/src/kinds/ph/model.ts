import { errorAtProcessValue } from '../../calibration/phCalibration.ts'
import {
  IDEAL_CHARACTERISTIC,
  millivoltsToPh,
  type PhCharacteristic,
  phToMillivolts,
} from '../../electrode/phElectrode.ts'
import type { CalibrationParameters, MeasurementModel } from '../../measurement/measurementModel.ts'
import { STABILITY_PRESETS } from '../../stability/presets.ts'
import { phBufferValue } from '../../standards/phBuffers.ts'

/** A characteristic as the electrode functions take it. */
export const phCharacteristic = (c: CalibrationParameters): PhCharacteristic => ({
  zero: c.zero ?? IDEAL_CHARACTERISTIC.zero,
  slopeEfficiency: c.slopeEfficiency ?? IDEAL_CHARACTERISTIC.slopeEfficiency,
})

export const PH_CHANNEL: MeasurementModel = {
  kind: 'ph',
  quantity: () => 'pH',
  ideal: { ...IDEAL_CHARACTERISTIC },
  parameters: [
    { key: 'slopeEfficiency', label: 'Slope', unit: '%', decimals: 1, scale: 100, low: 10, high: 150 },
    { key: 'zero', label: 'Zero', unit: 'mV', decimals: 1, scale: 1, low: -300, high: 300 },
  ],
  signalScale: () => ({ unit: 'mV', decimals: 1, factor: 1 }),
  shownScale: () => ({ unit: 'pH', decimals: 2, factor: 1 }),
  shownRange: () => ({ low: -1, high: 15 }),
  toShown: (signal, temperature, activeCalibration) =>
    millivoltsToPh(signal, temperature, phCharacteristic(activeCalibration)),
  fromShown: (shown, temperature, activeCalibration) =>
    phToMillivolts(shown, temperature, phCharacteristic(activeCalibration)),
  signalOf: (value, temperature, actual) => phToMillivolts(value, temperature, phCharacteristic(actual)),
  valueOf: (signal, temperature, actual) => millivoltsToPh(signal, temperature, phCharacteristic(actual)),
  standardValue: (code, temperature, _device, lotTable) => phBufferValue(code, temperature, lotTable),
  errorScale: { unit: 'pH', decimals: 2, factor: 1 },
  errorAt: (actual, activeCalibration, { value, temperature }) =>
    errorAtProcessValue(phCharacteristic(actual), phCharacteristic(activeCalibration), value, temperature),
  errorOf: (value, right) => value - right,
  preset: (_level, judged) => (judged === 'signal' ? STABILITY_PRESETS.phMillivolts : STABILITY_PRESETS.phValue),
  distance: (a, b) => Math.abs(a - b),
  wrongCup: { miss: 0.8, near: 0.5 },
  moved: 0.15,
  usualDrift: { rateSd: 0.05 / 30, walk: 0.02 ** 2 / 30 },
}
