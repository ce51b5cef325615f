import { convertUnit, isUnit, UNIT_DIMENSION, type UnitSymbol } from './quantityText.ts'
import type { Quantity, Sentence, SentencePart } from './sentence.ts'

/** How a reader wants numbers and instants written. */
export interface TextStyle {
  /** BCP 47. */
  locale: string
  /** Units wanted instead of those stored, by dimension. */
  units: Readonly<Partial<Record<string, UnitSymbol>>>
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

function inUnitOf(q: Quantity, { units }: TextStyle): Pick<Quantity, 'value' | 'unit' | 'decimals'> {
  if (!isUnit(q.unit)) return q
  const wanted = units[UNIT_DIMENSION[q.unit]]
  if (!wanted || wanted === q.unit) return q
  const origin = q.difference ? convertUnit(0, q.unit, wanted) : 0
  const value = convertUnit(q.value, q.unit, wanted) - origin
  const ratio = Math.abs(convertUnit(1, q.unit, wanted) - convertUnit(0, q.unit, wanted))
  // As fine as before: a unit a thousand times as large needs three decimals more.
  return { value, unit: wanted, decimals: Math.max(0, q.decimals + Math.round(-Math.log10(ratio))) }
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
