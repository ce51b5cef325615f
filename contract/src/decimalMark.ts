import { type DecimalMark, readTypedNumber, typedNumberProblem } from '@frustum/core'

/** Names what the reader of a page marks decimals by, so that the server reads a number as the page does. */
export const DECIMAL_MARK_HEADER = 'Decimal-Mark'

let ownMark: DecimalMark | undefined

/** In a page: its reader marks decimals by this; undefined where they did not choose. The server follows no one's. */
export const followDecimalMark = (mark: DecimalMark | undefined): void => {
  ownMark = mark
}
export const decimalMark = (): DecimalMark | undefined => ownMark

/** Thrown for a text that isn't a number, or could mean two; its message is what to show next to the field. */
export class UnreadableNumber extends Error {}

/**
 * The number in a field, by the reader's decimal mark; undefined where the field is blank.
 * @throws UnreadableNumber
 */
export function numberFrom(text: string): number | undefined {
  if (text.trim() === '') return undefined
  // Scales are also entered as powers of ten, in which a comma never parts thousands.
  if (/^\s*[-+\u2212]?\d+([.,]\d+)?e[-+\u2212]?\d+\s*$/i.test(text))
    return Number(text.replace(',', '.').replaceAll('\u2212', '-'))
  const typed = readTypedNumber(text, ownMark)
  if (!typed.ok) throw new UnreadableNumber(typedNumberProblem(text, typed.problem))
  return typed.value
}
