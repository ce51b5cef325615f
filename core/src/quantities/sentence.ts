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
 * @example say`It is ${celsius(21)}.` // ['It is ', { value: 21, unit: '°C', decimals: 1 }, '.']
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

const MOST_DECIMALS = 12

const isParts = (hole: Sentence | SentencePart): hole is readonly SentencePart[] => Array.isArray(hole)

/**
 * @example quantity(1413, 'µS/cm', 0) // { value: 1413, unit: 'µS/cm', decimals: 0 }
 */
export const quantity = (value: number, unit: string, decimals: number): Quantity => ({ value, unit, decimals })
/**
 * @example quantityText(signedQuantity(0.046, 'pH', 2)) // '+0.05\u00a0pH'
 */
export const signedQuantity = (value: number, unit: string, decimals: number): Quantity => ({
  ...difference(value, unit, decimals),
  signed: true,
})
/**
 * @example quantityText(difference(0.05, 'pH', 2)) // '0.05\u00a0pH'
 */
export const difference = (value: number, unit: string, decimals: number): Quantity => ({
  value,
  unit,
  decimals,
  difference: true,
})
/**
 * @example quantityText(celsius(21.25)) // '21.3\u00a0°C'
 */
export const celsius = (value: number, decimals = 1): Quantity => quantity(value, '°C', decimals)
/**
 * @example quantityText(millivolts(-7.64)) // '\u22127.6\u00a0mV'
 */
export const millivolts = (value: number, decimals = 1): Quantity => quantity(value, 'mV', decimals)
/**
 * How far two temperatures are apart.
 * @example quantityText(degreesApart(0.3)) // '0.3\u00a0°C'
 */
export const degreesApart = (value: number, decimals = 1): Quantity => difference(value, '°C', decimals)
/**
 * A share of 1 in percent.
 * @example quantityText(inPercent(0.964)) // '96.4\u00a0%'
 */
export const inPercent = (share: number, decimals = 1): Quantity => quantity(100 * share, '%', decimals)
/**
 * A probability in percent; nothing is certain: never 0 and never 100.
 * @example render(likelihood(0.9996)) // 'more than 99\u00a0%'
 */
export function likelihood(probability: number): Sentence {
  if (probability > 0.99) return say`more than ${inPercent(0.99, 0)}`
  return probability < 0.01 ? say`less than ${inPercent(0.01, 0)}` : say`${inPercent(probability, 0)}`
}
/**
 * @example render([days(1)]) // '1\u00a0day'
 */
export const days = (count: number): Count => ({ count, one: 'day', many: 'days' })

/**
 * A span of time in the largest unit that it fills.
 * @param ms not negative
 * @example timeSpan(7_200_000) // { value: 2, unit: 'h', decimals: 0 }
 */
export function timeSpan(ms: number): Count | Quantity {
  const [minutes, hours, wholeDays] = [60_000, 3_600_000, 86_400_000].map((unit) => Math.round(ms / unit))
  if ((wholeDays ?? 0) >= 2) return days(wholeDays ?? 0)
  return (hours ?? 0) >= 2 ? quantity(hours ?? 0, 'h', 0) : quantity(minutes ?? 0, 'min', 0)
}

/**
 * Decimals that leave a number so many figures, none behind a whole one.
 * @example figures(0.0123, 3) // 4
 */
export function figures(value: number, count: number): number {
  if (!Number.isFinite(value) || value === 0) return 0
  const short = Number(value.toPrecision(count))
  return Math.max(0, Math.min(MOST_DECIMALS, count - 1 - Math.floor(Math.log10(Math.abs(short)))))
}

/**
 * A number as exact as it was given, to at most six figures and without noughts at its end.
 * @example quantityText(exactly(0.125, 'mg/L')) // '0.125\u00a0mg/L'
 */
export function exactly(value: number, unit = ''): Quantity {
  const short = Number(value.toPrecision(6))
  let decimals = 0
  while (decimals < MOST_DECIMALS && Number(short.toFixed(decimals)) !== short) decimals++
  return quantity(value, unit, decimals)
}
