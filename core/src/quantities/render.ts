import { convertUnit, isUnit, UNIT_DIMENSION, type UnitSymbol } from './quantityText.ts'
import type { Quantity, Sentence, SentencePart } from './sentence.ts'

/** How a reader wants numbers and instants written. */
export interface TextStyle {
  /** BCP 47. */
  locale: string
  /** Units wanted instead of those stored, by dimension. */
  units: Readonly<Partial<Record<string, UnitSymbol>>>
  /** By stored unit, where the wanted one is no multiple of it. */
  scales?: Readonly<Record<string, (decimals: number) => ReadUnit>>
  /** An instant as text. */
  instant(at: number): string
}

/** English and the units as stored; instants in UTC. */
export const PLAIN_STYLE: TextStyle = {
  locale: 'en',
  units: {},
  instant: (at) => new Date(at).toISOString().slice(0, 16).replace('T', ' '),
}

const formats = new Map<string, Intl.NumberFormat>()

function formatOf(locale: string, decimals: number, signed: boolean): Intl.NumberFormat {
  const key = `${locale} ${decimals} ${signed}`
  const found =
    formats.get(key) ??
    new Intl.NumberFormat(locale, {
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
      // Never minus zero.
      signDisplay: signed ? 'exceptZero' : 'negative',
    })
  formats.set(key, found)
  return found
}

/**
 * A number for people, with thousands marked and a true minus.
 * @param decimals 0 to 20
 * @example numberText(-348700.04, 1) // '\u2212348,700.0'
 */
export const numberText = (
  value: number,
  decimals: number,
  { signed = false, locale = PLAIN_STYLE.locale }: { signed?: boolean; locale?: string } = {},
): string => formatOf(locale, decimals, signed).format(value).replace('-', '\u2212')

/**
 * A quantity in the reader's units: "21.3 °C", "pH 8.12", "0.05 pH".
 * @example quantityText({ value: 8.12, unit: 'pH', decimals: 2 }) // 'pH\u00a08.12'
 */
export function quantityText(q: Quantity, style: TextStyle = PLAIN_STYLE): string {
  const { value, unit, decimals } = inUnitOf(q, style)
  const text = numberText(value, decimals, { signed: q.signed ?? false, locale: style.locale })
  if (unit === '') return text
  return unit === 'pH' && !q.difference ? `pH\u00a0${text}` : `${text}\u00a0${unit}`
}

/** A unit as a person reads it, and what values and widths in the other become in it. */
export interface ReadUnit {
  unit: string
  decimals: number
  of(value: number): number
  width(difference: number): number
}

const same = (value: number) => value

/**
 * How what is stored in a unit is read.
 * @example unitRead({ unit: '\u00b0C', decimals: 1 }, { ...PLAIN_STYLE, units: { temperature: '\u00b0F' } }).of(25) // 77
 */
export function unitRead(stored: { unit: string; decimals: number }, style: TextStyle): ReadUnit {
  const { decimals } = stored
  // Older records name the unit of salinity S, which reads as siemens.
  const unit = stored.unit === 'S' ? 'PSU' : stored.unit
  const { units, scales = {} } = style
  const scale = scales[unit]
  if (scale) return scale(decimals)
  const wanted = isUnit(unit) ? units[UNIT_DIMENSION[unit]] : undefined
  if (!isUnit(unit) || !wanted || wanted === unit) return { unit, decimals, of: same, width: same }
  const of = (value: number) => convertUnit(value, unit, wanted)
  const width = (difference: number) => of(difference) - of(0)
  // As fine as before: a unit a thousand times as large needs three decimals more.
  return { unit: wanted, decimals: Math.max(0, decimals + Math.round(-Math.log10(Math.abs(width(1))))), of, width }
}

function inUnitOf(q: Quantity, style: TextStyle): Pick<Quantity, 'value' | 'unit' | 'decimals'> {
  const { unit, decimals, of, width } = unitRead(q, style)
  return { value: q.difference ? width(q.value) : of(q.value), unit, decimals }
}

const partText = (part: SentencePart, style: TextStyle): string => {
  if (typeof part === 'string') return part
  if ('count' in part) {
    return `${numberText(part.count, 0, { locale: style.locale })}\u00a0${part.count === 1 ? part.one : part.many}`
  }
  return 'at' in part ? style.instant(part.at) : quantityText(part, style)
}

/**
 * The one place where a sentence from core becomes text.
 * @example render(['It is ', { value: 21.25, unit: '°C', decimals: 1 }, '.']) // 'It is 21.3\u00a0°C.'
 */
export const render = (sentence: Sentence, style: TextStyle = PLAIN_STYLE): string =>
  typeof sentence === 'string' ? sentence : sentence.map((part) => partText(part, style)).join('')
