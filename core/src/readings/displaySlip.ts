import { type DecimalMark, readTypedNumber } from '../quantities/typedNumber.ts'

export type DisplaySlip =
  | { kind: 'decimal-mark'; meant: number }
  | { kind: 'digits'; meant: number }
  | { kind: 'far'; usual: number }

/** What is known of a display before it is read, in its own unit. */
interface Expected {
  /** What it read last, or what the water usually is. */
  usual: number
  /** How far from that it may be without a word; above 0. */
  width: number
  decimals: number
}

/**
 * What is likely wrong with a number that was read off a display: a decimal mark that is missing or in another place, two
 * digits that changed places, or a value that is far from all that it read before. Null where nothing is, and where it is
 * no number at all. Nobody is kept from meaning it.
 * @example findDisplaySlip('815', { usual: 8.2, width: 0.3, decimals: 2 }) // { kind: 'decimal-mark', meant: 8.15 }
 */
export function findDisplaySlip(
  typed: string,
  { usual, width, decimals }: Expected,
  mark?: DecimalMark,
): DisplaySlip | null {
  const read = readTypedNumber(typed, mark)
  if (!read.ok) return null
  const isNear = (value: number) => Math.abs(value - usual) <= width
  const { value } = read
  if (isNear(value)) return null
  const shifted = [10, 100, 1000].flatMap((f) => [value / f, value * f]).find(isNear)
  if (shifted !== undefined) return { kind: 'decimal-mark', meant: Number(shifted.toFixed(decimals)) }
  const swapped = swappedDigits(value.toFixed(decimals)).find(isNear)
  return swapped === undefined ? { kind: 'far', usual } : { kind: 'digits', meant: swapped }
}

/** A number with two neighbouring digits in each other's place, the decimal mark staying where it is. */
function swappedDigits(text: string): number[] {
  const places = [...text].flatMap((c, i) => (/\d/.test(c) ? [i] : []))
  return places.slice(1).map((place, i) => {
    const digits = [...text]
    const before = places[i] as number
    ;[digits[before], digits[place]] = [digits[place] as string, digits[before] as string]
    return Number(digits.join(''))
  })
}
