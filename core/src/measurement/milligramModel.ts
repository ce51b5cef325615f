import { requireWithin } from '../quantities/outOfRange.ts'
import { plainPreset } from '../stability/presets.ts'
import { GAIN, linearModel, noStandard } from './linearModel.ts'
import type { MeasurementModel } from './measurementModel.ts'

/** A sensor that reads a concentration in mg/L straight. */
export const milligramModel = (
  quantity: string,
  { highest, usualDrift }: { highest: number; usualDrift: MeasurementModel['usualDrift'] },
): MeasurementModel =>
  linearModel({
    quantity,
    unit: 'mg/L',
    decimals: 2,
    parameters: [GAIN, { key: 'offset', label: 'Offset', unit: 'mg/L', decimals: 3, scale: 1, low: -1000, high: 1000 }],
    preset: (level) => plainPreset(level),
    standardValue: noStandard,
    wrongCup: { miss: Number.POSITIVE_INFINITY, near: 0 },
    moved: 0.1,
    usualDrift,
    range: { low: 0, high: highest },
    check: (value) => requireWithin(quantity, value, -1e4, 1e5, 'mg/L'),
  })
