import { type MessageRecord, PayloadProblem, type Scalar } from './message.ts'
import { readTime } from './times.ts'

/**
 * Lines of "measurement,tag=text field=1.5,other=2i 1700000000000000000": spaces and commas are escaped by a backslash,
 * texts stand in quotes, and the time is the last, if it is there. A field is named by what stands before the fields, a
 * slash, and its own name.
 * @throws PayloadProblem where a line is none
 */
export function lineRecords(text: string, now: number): MessageRecord[] {
  const moments = new Map<number | null, Map<string, Scalar>>()
  for (const line of text.split('\n').map((l) => l.trim())) {
    if (line === '' || line.startsWith('#')) continue
    const parts = cut(line, ' ').filter((p) => p !== '')
    const [series, fields, time] = parts
    if (!series || !fields || parts.length > 3) throw new PayloadProblem(`“${line.slice(0, 60)}” is no line of fields.`)
    const at = time === undefined ? null : readTime(time, now)
    const moment = moments.get(at) ?? new Map<string, Scalar>()
    moments.set(at, moment)
    for (const pair of cut(fields, ',')) {
      const [name, value] = cut(pair, '=')
      if (!name || value === undefined) throw new PayloadProblem(`“${pair.slice(0, 60)}” is no field with its value.`)
      moment.set(`${plain(series)}/${plain(name)}`, fieldValue(value))
    }
  }
  if (moments.size === 0) throw new PayloadProblem('What came is empty.')
  return [...moments].map(([at, fields]) => ({
    at,
    find: (field) => fields.get(field),
    leaves: () => [...fields].map(([field, value]) => ({ field, value, unit: '' })),
  }))
}

/** Cuts at a sign, where it is neither escaped nor in quotes. */
function cut(text: string, sign: string): string[] {
  const parts = ['']
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const c = text[i] as string
    if (c === '\\' && i + 1 < text.length) {
      parts[parts.length - 1] += c + text[++i]
      continue
    }
    if (c === '"') quoted = !quoted
    if (c === sign && !quoted) parts.push('')
    else parts[parts.length - 1] += c
  }
  return parts
}

const plain = (text: string) => text.replace(/\\([,= "\\])/g, '$1')

function fieldValue(text: string): Scalar {
  if (/^".*"$/.test(text)) return plain(text.slice(1, -1))
  // A whole number has an i or a u after it.
  if (/^[+-]?\d+[iu]$/.test(text)) return Number(text.slice(0, -1))
  if (/^(t|true)$/i.test(text)) return true
  if (/^(f|false)$/i.test(text)) return false
  const number = Number(text)
  if (text === '' || !Number.isFinite(number))
    throw new PayloadProblem(`“${text.slice(0, 40)}” is no value of a field.`)
  return number
}
