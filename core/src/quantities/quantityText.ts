import { ZERO_CELSIUS } from './constants.ts'
import { EC_SCALES } from './ecScales.ts'
import { readTypedNumber, typedNumberProblem } from './typedNumber.ts'

/** What a number measures. A field of one dimension refuses units of another. */
type Dimension =
  | 'conductivity'
  | 'resistivity'
  | 'temperature'
  | 'potential'
  | 'mass concentration'
  | 'molar concentration'
  | 'volume'
  | 'mass'
  | 'resistance'
  | 'share'
  | 'pH'
  | 'plain number'

interface Unit {
  dimension: Dimension
  /** Base units in one of this, and base units at its zero. */
  factor: number
  zero?: number
  /** As people write it, besides the symbol itself. Lower case stands for both cases. */
  aliases: readonly string[]
}

/** Units that a field may have, and that may be pasted into one of the same dimension. */
const UNITS = {
  'µS/cm': { dimension: 'conductivity', factor: EC_SCALES['µS/cm'], aliases: ['us/cm', 'us', 'microsiemens/cm'] },
  'mS/cm': { dimension: 'conductivity', factor: EC_SCALES['mS/cm'], aliases: ['ms/cm', 'ms', 'ds/m'] },
  'S/m': { dimension: 'conductivity', factor: EC_SCALES['S/m'], aliases: ['s/m'] },
  'S/cm': { dimension: 'conductivity', factor: 1e6, aliases: ['s/cm'] },
  CF: { dimension: 'conductivity', factor: EC_SCALES.CF, aliases: ['cf'] },
  'ppm 500': { dimension: 'conductivity', factor: EC_SCALES['ppm 500'], aliases: ['ppm500'] },
  'ppm 640': { dimension: 'conductivity', factor: EC_SCALES['ppm 640'], aliases: ['ppm640'] },
  'ppm 700': { dimension: 'conductivity', factor: EC_SCALES['ppm 700'], aliases: ['ppm700'] },
  Ω·cm: { dimension: 'resistivity', factor: 1, aliases: ['ohm cm', 'ohmcm', 'ohm.cm'] },
  kΩ·cm: { dimension: 'resistivity', factor: 1000, aliases: ['kohm cm', 'kohmcm', 'kohm.cm'] },
  MΩ·cm: { dimension: 'resistivity', factor: 1e6, aliases: ['Mohm cm', 'Mohmcm', 'Mohm.cm', 'MOhm', 'Mohm', 'MΩ'] },
  '°C': { dimension: 'temperature', factor: 1, aliases: ['c', 'degc', 'celsius'] },
  '°F': { dimension: 'temperature', factor: 1 / 1.8, zero: -32 / 1.8, aliases: ['f', 'degf', 'fahrenheit'] },
  K: { dimension: 'temperature', factor: 1, zero: -ZERO_CELSIUS, aliases: ['k', 'kelvin'] },
  mV: { dimension: 'potential', factor: 1, aliases: ['mv'] },
  V: { dimension: 'potential', factor: 1000, aliases: ['v'] },
  'mg/L': { dimension: 'mass concentration', factor: 1, aliases: ['mg/l', 'ppm'] },
  'µg/L': { dimension: 'mass concentration', factor: 1e-3, aliases: ['ug/l', 'ppb'] },
  'g/L': { dimension: 'mass concentration', factor: 1000, aliases: ['g/l'] },
  'mol/L': { dimension: 'molar concentration', factor: 1, aliases: ['mol/l', 'M'] },
  'mmol/L': { dimension: 'molar concentration', factor: 1e-3, aliases: ['mmol/l', 'mM'] },
  mL: { dimension: 'volume', factor: 1, aliases: ['ml'] },
  L: { dimension: 'volume', factor: 1000, aliases: ['l'] },
  g: { dimension: 'mass', factor: 1, aliases: ['g'] },
  mg: { dimension: 'mass', factor: 1e-3, aliases: ['mg'] },
  kg: { dimension: 'mass', factor: 1000, aliases: ['kg'] },
  Ω: { dimension: 'resistance', factor: 1, aliases: ['ohm', 'ohms'] },
  kΩ: { dimension: 'resistance', factor: 1000, aliases: ['kohm'] },
  '%': { dimension: 'share', factor: 1, aliases: ['percent'] },
  pH: { dimension: 'pH', factor: 1, aliases: ['ph'] },
  '': { dimension: 'plain number', factor: 1, aliases: ['psu', 'sg'] },
} as const satisfies Record<string, Unit>

export type UnitSymbol = keyof typeof UNITS

/**
 * @example isUnit('mS/cm') // true
 */
export const isUnit = (text: string): text is UnitSymbol => Object.hasOwn(UNITS, text)

/** What each unit measures. */
export const UNIT_DIMENSION = Object.fromEntries(
  Object.entries(UNITS).map(([symbol, { dimension }]) => [symbol, dimension]),
) as Record<UnitSymbol, Dimension>

export type QuantityText =
  /** `converted` when the text carried another unit than the field's. */
  { ok: true; value: number; converted: boolean } | { ok: false; problem: string }

/** Greek mu and micro sign, dots, degree signs: written in many ways, meant in one. */
const plainly = (text: string) =>
  text
    .replace(/[\u00b5\u03bc]/g, 'u')
    .replace(/\u2126|\u03a9/g, 'Ω')
    .replace(/[\u00b7\u22c5*]/g, '.')
    .replace(/\u00ba|\u00b0/g, '')
    .trim()

/**
 * The unit that a text means, however it is written; null where it means none.
 * @example unitOf('us/cm') // 'µS/cm'
 */
export function unitOf(text: string): UnitSymbol | null {
  const plain = plainly(text)
  const entries = Object.entries(UNITS) as [UnitSymbol, Unit][]
  const exact = entries.find(([symbol, unit]) => plainly(symbol) === plain || unit.aliases.includes(plain))
  const loose = () => entries.find(([, unit]) => unit.aliases.includes(plain.toLowerCase()))
  return (exact ?? loose())?.[0] ?? null
}

/**
 * A value in one unit as a value in another of the same dimension. @throws RangeError for different dimensions
 * @example convertUnit(77, '°F', '°C') // 25
 */
export function convertUnit(value: number, from: UnitSymbol, to: UnitSymbol): number {
  const [a, b]: [Unit, Unit] = [UNITS[from], UNITS[to]]
  if (a.dimension !== b.dimension) throw new RangeError(`${from} and ${to} measure different things.`)
  if (from === to) return value
  return (value * a.factor + (a.zero ?? 0) - (b.zero ?? 0)) / b.factor
}

/**
 * Reads a number with or without its unit, as typed or pasted into a field: "26.1 C", "53 mS", "1.413,5".
 * What can be read in two ways is refused with the question, never guessed.
 * @param unit of the field: what a bare number is in
 * @returns the value in the field's unit, or a sentence that says what is wrong
 * @example readQuantity('53 mS', 'µS/cm') // { ok: true, value: 53000, converted: true }
 */
export function readQuantity(text: string, unit: UnitSymbol): QuantityText {
  const match = /^\s*([-+\u2212\u2013]?[\d.,][\d.,\s\u00a0\u2009\u202f]*)(.*)$/su.exec(text)
  if (text.trim() === '') return { ok: false, problem: 'Nothing is entered here.' }
  const [, digits, rest] = match ?? []
  const number = (digits ?? '').trim()
  if (!match || number === '') return { ok: false, problem: `"${text.trim()}" is not a number.` }
  const typed = readTypedNumber(number)
  if (!typed.ok) {
    const whole = typed.problem === 'two-ways' ? number : text
    return { ok: false, problem: typedNumberProblem(whole, typed.problem) }
  }
  const given = (rest ?? '').trim()
  if (given === '') return { ok: true, value: typed.value, converted: false }
  const dimension = UNITS[unit].dimension
  if (dimension === 'conductivity' && /^ppm$/i.test(given)) {
    return { ok: false, problem: 'ppm of which scale? Write "ppm 500", "ppm 640" or "ppm 700", or use mS/cm.' }
  }
  const found = unitOf(given)
  if (found === null)
    return { ok: false, problem: `"${given}" is not a unit known here; this field is in ${unit || 'plain numbers'}.` }
  if (UNITS[found].dimension !== dimension) {
    return {
      ok: false,
      problem: `${found} measures ${UNITS[found].dimension}; this field wants ${dimension}${unit ? ` in ${unit}` : ''}.`,
    }
  }
  return { ok: true, value: convertUnit(typed.value, found, unit), converted: found !== unit }
}
