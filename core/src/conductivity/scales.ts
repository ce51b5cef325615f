import { EC_SCALES, type EcScale } from '../quantities/ecScales.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * Value on a scale as uS/cm. @throws OutOfRange for less than 0 or more than 2 S/cm
 * @example fromEcScale(1400, 'ppm 700') // 2000
 */
export function fromEcScale(value: number, scale: EcScale): number {
  return requireWithin('Conductivity', value, 0, 2e6 / EC_SCALES[scale], scale) * EC_SCALES[scale]
}

/**
 * uS/cm as a value on a scale. @throws OutOfRange
 * @example toEcScale(2000, 'CF') // 20
 */
export function toEcScale(conductivity: number, scale: EcScale): number {
  return requireWithin('Conductivity', conductivity, 0, 2e6, 'µS/cm') / EC_SCALES[scale]
}

/**
 * Resistivity in ohm cm of a conductivity in uS/cm, and the other way round. @throws OutOfRange unless more than 0
 * @example reciprocal(0.055) // 18182000
 */
export function reciprocal(value: number): number {
  return 1e6 / requireWithin('Conductivity or resistivity', value, 1e-4, 1e10)
}
