export type TypedNumber = { ok: true; value: number } | { ok: false; problem: 'empty' | 'not-a-number' | 'two-ways' }

/** What somebody, or a file, marks decimals by. */
export type DecimalMark = 'point' | 'comma'

/** A comma before exactly three last digits may part thousands or mark decimals, unless it stands after a zero. */
const TWO_WAYS = /^[-+]?[1-9]\d{0,2},\d{3}$/

const bareOf = (text: string): string =>
  text
    .trim()
    .replace(/[\u2212\u2013]/g, '-')
    .replace(/[\s\u00a0\u2009\u202f]/g, '')

/**
 * Reads a number as people type it: a comma or a point as decimal mark, spaces or thin spaces between thousands.
 * A text with both marks is read only when their order tells them apart ("1.413,5", "1,413.5"); one that can be read in two
 * ways ("1,413") only when it is known what marks decimals. Exponents, units and anything else are refused rather than guessed.
 * @param mark of whoever wrote it, where that is known
 * @example readTypedNumber('1.413,5') // { ok: true, value: 1413.5 }
 */
export function readTypedNumber(text: string, mark?: DecimalMark): TypedNumber {
  const bare = bareOf(text)
  if (bare === '') return { ok: false, problem: 'empty' }
  if (mark === undefined && TWO_WAYS.test(bare)) return { ok: false, problem: 'two-ways' }
  const lastComma = bare.lastIndexOf(',')
  const lastPoint = bare.lastIndexOf('.')
  let normal = bare
  if (lastComma >= 0 && lastPoint >= 0) {
    const decimal = lastComma > lastPoint ? ',' : '.'
    const thousands = decimal === ',' ? '.' : ','
    const [whole = '', ...fraction] = bare.split(decimal)
    const groups = whole.replace(/^[-+]/, '').split(thousands)
    const grouped = groups.every((g, i) => (i === 0 ? g.length >= 1 && g.length <= 3 : g.length === 3))
    if (!grouped || fraction.length !== 1) return { ok: false, problem: 'not-a-number' }
    normal = `${whole.split(thousands).join('')}.${fraction[0]}`
  } else if (lastComma >= 0) {
    normal = bare.replace(',', mark === 'point' && TWO_WAYS.test(bare) ? '' : '.')
  }
  if (!/^[-+]?(\d+\.?\d*|\.\d+)$/.test(normal)) return { ok: false, problem: 'not-a-number' }
  return { ok: true, value: Number(normal) }
}

/**
 * What is wrong with a number that was typed, for whoever typed it.
 * @example typedNumberProblem('1,413', 'two-ways') // '"1,413" can mean 1413 or 1.413. Enter one of them.'
 */
export function typedNumberProblem(text: string, problem: 'empty' | 'not-a-number' | 'two-ways'): string {
  const bare = bareOf(text)
  if (problem === 'two-ways')
    return `"${bare}" can mean ${bare.replace(',', '')} or ${bare.replace(',', '.')}. Enter one of them.`
  return problem === 'empty' ? 'Enter a number.' : `"${text.trim()}" isn't a number.`
}

/**
 * The decimal mark that some numbers tell by themselves; undefined where none of them does, or they differ.
 * @example decimalMarkOf(['1,413', '7,05']) // 'comma'
 */
export function decimalMarkOf(texts: Iterable<string>): DecimalMark | undefined {
  let found: DecimalMark | undefined
  for (const text of texts) {
    const bare = bareOf(text)
    const mark = /^[-+]?(\d{1,3}(\.\d{3})+|\d*),\d+$/.test(bare)
      ? TWO_WAYS.test(bare)
        ? undefined
        : 'comma'
      : /^[-+]?(\d{1,3}(,\d{3})+|\d*)\.\d+$/.test(bare)
        ? 'point'
        : undefined
    if (mark && found && mark !== found) return undefined
    found ??= mark
  }
  return found
}

/**
 * A number as typed by somebody who marks decimals by a comma, so that it can be read in one way only.
 * @example inOneWay('1,413', 'comma') // '1.413'
 */
export const inOneWay = (text: string, mark: DecimalMark): string =>
  TWO_WAYS.test(bareOf(text)) ? bareOf(text).replace(',', mark === 'comma' ? '.' : '') : text
