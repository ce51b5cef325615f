import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * The scales in which a conductivity is shown. The ppm scales do not measure dissolved solids: they multiply the
 * conductivity at 25 degC, in mS/cm, by 500 (NaCl), 640 or 700 (a mixed salt), by common practice without a source.
 * CF is ten times the mS/cm (common practice, no source).
 */
export const EC_SCALES = {
  'µS/cm': 1,
  'mS/cm': 1000,
  'S/m': 10_000,
  CF: 100,
  'ppm 500': 2,
  'ppm 640': 1 / 0.64,
  'ppm 700': 1 / 0.7,
} as const satisfies Record<string, number>

export type EcScale = keyof typeof EC_SCALES

/** Value on a scale as uS/cm. @throws OutOfRange for less than 0 or more than 2 S/cm */
export function fromEcScale(value: number, scale: EcScale): number {
  return requireWithin('Conductivity', value, 0, 2e6 / EC_SCALES[scale], scale) * EC_SCALES[scale]
}

/** uS/cm as a value on a scale. @throws OutOfRange */
export function toEcScale(conductivity: number, scale: EcScale): number {
  return requireWithin('Conductivity', conductivity, 0, 2e6, 'µS/cm') / EC_SCALES[scale]
}

/** Resistivity in ohm cm of a conductivity in uS/cm, and the other way round. @throws OutOfRange unless more than 0 */
export function reciprocal(value: number): number {
  return 1e6 / requireWithin('Conductivity or resistivity', value, 1e-4, 1e10)
}
