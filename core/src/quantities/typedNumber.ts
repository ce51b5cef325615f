export type TypedNumber = { ok: true; value: number } | { ok: false; problem: 'empty' | 'not-a-number' }

/**
 * Reads a number as people type it: a comma or a point as decimal mark, spaces or thin spaces between thousands.
 * A text with both marks is read only when their order tells them apart ("1.413,5", "1,413.5").
 * Exponents, units and anything else are refused rather than guessed.
 * @example readTypedNumber('1.413,5') // { ok: true, value: 1413.5 }
 */
export function readTypedNumber(text: string): TypedNumber {
  const bare = text
    .trim()
    .replace(/[\u2212\u2013]/g, '-')
    .replace(/[\s\u00a0\u2009\u202f]/g, '')
  if (bare === '') return { ok: false, problem: 'empty' }
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
    normal = bare.replace(',', '.')
  }
  if (!/^[-+]?(\d+\.?\d*|\.\d+)$/.test(normal)) return { ok: false, problem: 'not-a-number' }
  return { ok: true, value: Number(normal) }
}
