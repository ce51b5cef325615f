import type { RegisterPlace } from '../place.ts'

/** What makes a displayed number of a raw one: raw times scale, plus offset. */
export interface Conversion {
  scale: number
  offset: number
}

/** A conversion, and how unusual it is: the negative logarithm of its share (common practice, no source). */
export interface Usual extends Conversion {
  strangeness: number
}

const POWERS = [-6, -5, -4, -3, -2, -1, 0, 1, 2, 3] as const
/** Of floats: as they are, or in a unit a thousand times as large or small. */
const FLOAT_POWERS = [-3, 0, 3] as const
/** Temperatures kept in another unit than the one displayed. */
const KELVIN = 273.15
const OTHER_TEMPERATURES: Readonly<Record<string, readonly Conversion[]>> = {
  '°C': [
    { scale: 1, offset: -KELVIN },
    { scale: 5 / 9, offset: -160 / 9 },
  ],
  '°F': [
    { scale: 9 / 5, offset: 32 },
    { scale: 9 / 5, offset: 32 - 1.8 * KELVIN },
  ],
  K: [{ scale: 1, offset: KELVIN }],
}
const TEMPERATURE_POWERS = [-2, -1, 0] as const
/** Added so that a negative number fits where none is foreseen. */
const OFFSETS = [-2000, -1000, -500, -200, -100, -50, -40, -30, -20, -10, 10, 20, 50, 100] as const
const OFFSET_POWERS = [-3, -2, -1, 0] as const
/** Raw numbers at the ends of a current or voltage input. */
const COUNTS = [
  [0, 4095],
  [0, 10_000],
  [0, 27_648],
  [0, 32_767],
  [0, 65_535],
  [400, 2000],
  [819, 4095],
  [4000, 20_000],
  [6400, 32_000],
] as const
/** What such an input stands for. */
const SPANS = [
  [0, 1],
  [0, 2],
  [0, 5],
  [0, 10],
  [0, 14],
  [2, 12],
  [0, 20],
  [0, 50],
  [-10, 100],
  [0, 100],
  [0, 150],
  [-50, 150],
  [0, 200],
  [0, 500],
  [0, 1000],
  [-1000, 1000],
  [-1500, 1500],
  [0, 2000],
  [-2000, 2000],
  [0, 20_000],
] as const

const isFloat = (type: RegisterPlace['type']) => type === 'float32' || type === 'float64'

/**
 * Conversions that devices use for a type of number.
 * @param decimals of the display
 * @param temperature the displayed unit of a temperature; null of all else
 */
export function usualConversions(
  type: RegisterPlace['type'],
  decimals: number,
  temperature: string | null,
): readonly Usual[] {
  const powers: Usual[] = (isFloat(type) ? FLOAT_POWERS : POWERS).map((power) => ({
    scale: 10 ** power,
    offset: 0,
    strangeness: isFloat(type) ? Math.abs(power) / 1.5 : Math.abs(-power - decimals) * (-power < decimals ? 1.2 : 0.4),
  }))
  const temperatures = (temperature === null ? [] : (OTHER_TEMPERATURES[temperature] ?? [])).flatMap(
    ({ scale, offset }): Usual[] =>
      (isFloat(type) ? [0] : TEMPERATURE_POWERS).map((power) => ({
        scale: scale * 10 ** power,
        offset,
        strangeness: 1.5 + Math.abs(power + 1) / 2,
      })),
  )
  if (type !== 'int16' && type !== 'uint16') return [...powers, ...temperatures]
  const offsets = OFFSET_POWERS.flatMap((power) =>
    OFFSETS.map((offset): Usual => ({ scale: 10 ** power, offset, strangeness: 3 + Math.abs(-power - decimals) / 2 })),
  )
  const inputs =
    type === 'uint16'
      ? COUNTS.flatMap(([from, to]) =>
          SPANS.map(([low, high]): Usual => {
            const scale = (high - low) / (to - from)
            return { scale, offset: low - from * scale, strangeness: 4 }
          }),
        )
      : []
  return [...powers, ...temperatures, ...offsets, ...inputs]
}

/** Applies a conversion. Divides by a power of ten, since 729 times 0.01 is not 7.29. */
export function converted(raw: number, { scale, offset }: Conversion): number {
  const divisor = Math.round(1 / scale)
  const isDivision = scale < 1 && Math.abs(divisor * scale - 1) < 1e-12
  return (isDivision ? raw / divisor : raw * scale) + offset
}
