/** A number with its unit, not yet written down. */
export interface Quantity {
  value: number
  /** As it is stored; the reader may want another of the same dimension. */
  unit: string
  decimals: number
  /** With a plus as well: of errors and shifts. */
  signed?: true
  /** How far two values are apart: in another unit only its factor counts, and "pH" follows the number. */
  difference?: true
}

/** A number of things: "1 day", "3 days". */
export interface Count {
  count: number
  one: string
  many: string
}

/** An instant, epoch ms; the reader's clock makes a date of it. */
export interface Instant {
  at: number
}

export type SentencePart = string | Quantity | Count | Instant

/** A sentence as data: words, and between them quantities that the reader's units, decimals and clock make text of. */
export type Sentence = string | readonly SentencePart[]

/**
 * Joins words and quantities to a sentence.
 * @example render(say`It is ${celsius(21.25)}.`) // 'It is 21.3\u00a0°C.'
 */
export function say(words: TemplateStringsArray, ...holes: readonly (Sentence | SentencePart)[]): Sentence {
  const parts: SentencePart[] = []
  const add = (part: SentencePart) => {
    const last = parts.at(-1)
    if (typeof part === 'string' && typeof last === 'string') parts[parts.length - 1] = last + part
    else if (part !== '') parts.push(part)
  }
  words.forEach((word, i) => {
    add(word)
    const hole = holes[i]
    if (hole === undefined) return
    if (isParts(hole)) hole.forEach(add)
    else add(hole)
  })
  const [only] = parts
  return parts.length === 0 ? '' : parts.length === 1 && typeof only === 'string' ? only : parts
}

const isParts = (hole: Sentence | SentencePart): hole is readonly SentencePart[] => Array.isArray(hole)

export const quantity = (value: number, unit: string, decimals: number): Quantity => ({ value, unit, decimals })
export const signedQuantity = (value: number, unit: string, decimals: number): Quantity => ({
  ...difference(value, unit, decimals),
  signed: true,
})
export const difference = (value: number, unit: string, decimals: number): Quantity => ({
  value,
  unit,
  decimals,
  difference: true,
})
export const celsius = (value: number, decimals = 1): Quantity => quantity(value, '°C', decimals)
export const millivolts = (value: number, decimals = 1): Quantity => quantity(value, 'mV', decimals)
/** How far two temperatures are apart. */
export const degreesApart = (value: number, decimals = 1): Quantity => difference(value, '°C', decimals)
/** A share of 1 in percent. */
export const inPercent = (share: number, decimals = 1): Quantity => quantity(100 * share, '%', decimals)
export const days = (count: number): Count => ({ count, one: 'day', many: 'days' })

/** Decimals that leave a number so many figures, none behind a whole one. */
export function figures(value: number, count: number): number {
  if (!Number.isFinite(value) || value === 0) return 0
  const short = Number(value.toPrecision(count))
  return Math.max(0, Math.min(12, count - 1 - Math.floor(Math.log10(Math.abs(short)))))
}

/** A number as exact as it was given, to at most six figures and without noughts at its end. */
export function exactly(value: number, unit = ''): Quantity {
  const [, fraction = ''] = String(Number(value.toPrecision(6))).split('.')
  return quantity(value, unit, /e/.test(fraction) ? 12 : fraction.length)
}
