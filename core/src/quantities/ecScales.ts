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
