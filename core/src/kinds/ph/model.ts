import { errorAtProcessValue } from '../../calibration/phCalibration.ts'
import {
  IDEAL_CHARACTERISTIC,
  millivoltsToPh,
  type PhCharacteristic,
  phToMillivolts,
} from '../../electrode/phElectrode.ts'
import type { CalibrationParameters, MeasurementModel } from '../../measurement/measurementModel.ts'
import { phBufferValue } from '../../standards/phBuffers.ts'
import { PH_LIMITS } from './limits.ts'
import { PH_MILLIVOLTS, PH_VALUE } from './presets.ts'

/** A characteristic as the electrode functions take it. */
export const phElectrodeOf = (c: CalibrationParameters): PhCharacteristic => ({
  zero: c.zero ?? IDEAL_CHARACTERISTIC.zero,
  slopeEfficiency: c.slopeEfficiency ?? IDEAL_CHARACTERISTIC.slopeEfficiency,
})

export const PH_MODEL: MeasurementModel = {
  quantity: () => 'pH',
  ideal: { ...IDEAL_CHARACTERISTIC },
  parameters: [
    {
      key: 'slopeEfficiency',
      label: 'Slope',
      unit: '%',
      decimals: 1,
      scale: 100,
      low: 10,
      high: 150,
      sound: [100 * PH_LIMITS.slopeSound, 100 * PH_LIMITS.slopeHigh],
      limits: [
        { value: 100 * PH_LIMITS.slopeAgeing, word: 'order one' },
        { value: 100 * PH_LIMITS.slopeReplace, word: 'replace' },
      ],
    },
    {
      key: 'zero',
      label: 'Zero',
      unit: 'mV',
      decimals: 1,
      scale: 1,
      low: -300,
      high: 300,
      trendTitle: 'Zero at pH 7',
      sound: [-PH_LIMITS.zeroSound, PH_LIMITS.zeroSound],
      limits: [
        { value: PH_LIMITS.zeroWatch, word: 'suspect' },
        { value: -PH_LIMITS.zeroWatch, word: 'suspect' },
      ],
    },
  ],
  signalScale: () => ({ unit: 'mV', decimals: 1, factor: 1 }),
  signalUnit: 'mV',
  coreUnit: 'pH',
  shownScale: () => ({ unit: 'pH', decimals: 2, factor: 1 }),
  shownRange: () => ({ low: -1, high: 15 }),
  toShown: (signal, temperature, activeCalibration) =>
    millivoltsToPh(signal, temperature, phElectrodeOf(activeCalibration)),
  fromShown: (shown, temperature, activeCalibration) =>
    phToMillivolts(shown, temperature, phElectrodeOf(activeCalibration)),
  signalOf: (value, temperature, actual) => phToMillivolts(value, temperature, phElectrodeOf(actual)),
  valueOf: (signal, temperature, actual) => millivoltsToPh(signal, temperature, phElectrodeOf(actual)),
  standardValue: (code, temperature, _device, lotTable) => phBufferValue(code, temperature, lotTable),
  errorScale: { unit: 'pH', decimals: 2, factor: 1 },
  errorAt: (actual, activeCalibration, { value, temperature }) =>
    errorAtProcessValue(phElectrodeOf(actual), phElectrodeOf(activeCalibration), value, temperature),
  errorOf: (value, right) => value - right,
  preset: (_level, judged) => (judged === 'signal' ? PH_MILLIVOLTS : PH_VALUE),
  distance: (a, b) => Math.abs(a - b),
  wrongCup: { miss: 0.8, near: 0.5 },
  moved: 0.15,
  usualDrift: { rateSd: 0.05 / 30, walk: 0.02 ** 2 / 30 },
}
