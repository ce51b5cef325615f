/** What one of a unit is in the first of its family. */
const FAMILIES: readonly Readonly<Record<string, number>>[] = [
  { mV: 1, V: 1000, µV: 1e-3 },
  { 'µS/cm': 1, 'mS/cm': 1000, 'S/m': 10_000, 'dS/m': 1000, 'mS/m': 10, 'S/cm': 1e6 },
  { 'mg/L': 1, 'µg/L': 1e-3, 'g/L': 1000, ppm: 1, ppb: 1e-3 },
  { MΩ: 1, kΩ: 1e-3, Ω: 1e-6, GΩ: 1000 },
  { mA: 1, A: 1000, µA: 1e-3 },
]

/** Kelvin and degrees Fahrenheit begin elsewhere. */
const CELSIUS: Readonly<Record<string, (value: number) => number>> = {
  '°C': (value) => value,
  '°F': (value) => (value - 32) / 1.8,
  K: (value) => value - 273.15,
}

/**
 * A number of one unit in another; null where they measure different things. A unit that is not said is the one wanted.
 */
export function inUnit(value: number, from: string, to: string): number | null {
  if (from === to || from === '' || to === '') return value
  const celsius = CELSIUS[from]
  if (celsius) return to === '°C' ? celsius(value) : null
  const family = FAMILIES.find((f) => from in f && to in f)
  return family ? (value * (family[from] as number)) / (family[to] as number) : null
}

/** Units in which a number that is wanted in one may come, that one first. */
export const unitsFor = (wanted: string): string[] => {
  const family = wanted in CELSIUS ? CELSIUS : (FAMILIES.find((f) => wanted in f) ?? {})
  return [wanted, ...Object.keys(family).filter((unit) => unit !== wanted)]
}
