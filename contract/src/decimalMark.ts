import type { DecimalMark } from '@frustum/core'

/** Names what the reader of a page marks decimals by, so that the server reads a number as the page does. */
export const DECIMAL_MARK_HEADER = 'Decimal-Mark'

let ownMark: DecimalMark | undefined

/** In a page: its reader marks decimals by this; undefined where they did not choose. The server follows no one's. */
export const followDecimalMark = (mark: DecimalMark | undefined): void => {
  ownMark = mark
}
export const decimalMark = (): DecimalMark | undefined => ownMark
