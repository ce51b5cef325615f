import { nernstSlope } from '../electrode/nernst.ts'
import { kindOf } from '../kinds/index.ts'
import type { CalibrationParameters, DeviceSetting, ParameterSpec } from '../measurement/measurementModel.ts'
import { LABEL_TEMPERATURE } from '../measurement/ownStandards.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Standard } from '../measurement/standard.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { readTypedNumber } from '../quantities/typedNumber.ts'

/** How a list states a slope. */
export const SLOPE_SCALES = {
  percent: '% of the ideal',
  share: 'as a share, such as 0.97',
  millivolts: 'mV per pH',
} as const
export type SlopeScale = keyof typeof SLOPE_SCALES
/** How a list states a zero. */
export const ZERO_SCALES = { millivolts: 'mV', atZero: 'pH at 0 mV' } as const
export type ZeroScale = keyof typeof ZERO_SCALES

/** Only glass has its slope in mV per pH, and its zero as a pH; a file may speak of other sensors too. */
const isGlass = (kind: SensorKind) => kindOf(kind).health.glass

/**
 * A slope of a list as slope efficiency, 1 being ideal.
 * @param value as stated, e.g. 97.3, 0.973 or 57.6
 * @returns null for millivolts of a sensor that is not of glass: per what they are is not said
 */
export function statedSlope(kind: SensorKind, value: number, scale: SlopeScale): number | null {
  if (scale === 'share') return value
  if (scale === 'percent') return value / 100
  // Slopes of glass are written without their sign, or with it.
  return isGlass(kind) ? Math.abs(value) / nernstSlope(LABEL_TEMPERATURE) : null
}

/**
 * A zero of a list in mV; of glass that at pH 7.
 * @param value mV, or the pH at which an electrode of glass gives 0 mV
 * @param slopeEfficiency 1 where nothing is known of it
 */
export const statedZero = (kind: SensorKind, value: number, scale: ZeroScale, slopeEfficiency: number): number =>
  scale === 'atZero' && isGlass(kind) ? (value - 7) * slopeEfficiency * nernstSlope(LABEL_TEMPERATURE) : value

/** On which scale a column of zeros must be; null where either is possible: one in pH is near 7, and so may one in mV be. */
export const zeroScaleOf = (values: readonly number[]): ZeroScale | null =>
  values.length === 0 || values.some((v) => v < 5 || v > 9) ? 'millivolts' : null

/**
 * On which scale a column of slopes must be, by all its numbers; null where more than one is possible: 58 may be a
 * percentage of a spent electrode, or millivolts of a good one.
 */
export function slopeScaleOf(values: readonly number[]): SlopeScale | null {
  const sizes = values.map(Math.abs)
  if (sizes.length === 0) return null
  if (sizes.every((v) => v <= 1.5)) return 'share'
  // No glass gives more than the ideal slope at the highest temperature.
  return sizes.some((v) => v > nernstSlope(110)) ? 'percent' : null
}

/** Parameter names that a list's slope, zero and cell factor stand for. */
export function statedKeys(kind: SensorKind): { slope: string | null; zero: string | null; factor: string | null } {
  const { slopeKey, zeroKey, cell } = kindOf(kind).health
  return { slope: slopeKey, zero: zeroKey, factor: cell ? 'factor' : null }
}

/** A number that no sensor of the kind can have: of which parameter, and what it must lie within, as it is keyed in. */
export function implausible(
  kind: SensorKind,
  stated: CalibrationParameters,
): Pick<ParameterSpec, 'key' | 'label' | 'low' | 'high' | 'unit'> | null {
  const slip = kindOf(kind).model.parameters.find(({ key, low, high, scale }) => {
    const value = stated[key]
    return value !== undefined && (value * scale < low || value * scale > high)
  })
  return slip ?? null
}

/** So near to a standard's value, as a share of where another cup would be named, its number is meant. */
const NAMED_SHARE = 0.12

/**
 * The bottled standard that a list calls so: by its label, or by its number in the unit of its label or of the display.
 * Of several that are near enough the one that usually stands about is meant.
 * @returns null where none is near enough
 * @example standardCalled('ph', 'pH 7', {})?.code // 'pH7.00'
 */
export function standardCalled(kind: SensorKind, text: string, device: DeviceSetting): Standard | null {
  const { standards, commonStandards, model } = kindOf(kind)
  const word = text.trim().toLowerCase()
  const named = standards.find((s) => [s.code, s.label, s.shortLabel].some((n) => n.toLowerCase() === word))
  if (named) return named
  const [digits = ''] = /-?\d[\d\s.,]*/.exec(word) ?? []
  const number = readTypedNumber(digits.replace(/[.,\s]+$/, ''))
  if (!number.ok) return null
  // Conductivities are written in either unit, often without it.
  const isConductivity = model.coreUnit === 'µS/cm'
  const factors = /ms/.test(word) ? [1000] : isConductivity && !/[uµ]s/.test(word) ? [1, 1000] : [1]
  const near = (s: Standard) => {
    const read = nullIfOutOfRange(() => model.standardValue(s.code, LABEL_TEMPERATURE, device))
    const values = read === null ? [s.nominal] : [s.nominal, read]
    return Math.min(...values.flatMap((v) => factors.map((f) => model.distance(v, f * number.value))))
  }
  const possible = standards.filter((s) => near(s) <= NAMED_SHARE * model.wrongCup.near)
  const rank = (s: Standard) => (commonStandards.includes(s.code) ? 0 : 1)
  return [...possible].sort((a, b) => rank(a) - rank(b) || near(a) - near(b))[0] ?? null
}
