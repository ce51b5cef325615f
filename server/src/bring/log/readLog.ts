import type { BringLogOptions, BringLogView, LogChannel, LogColumns } from '@frustum/contract'
import {
  codeKey,
  convertUnit,
  type DecimalMark,
  decimalMarkOf,
  isUnit,
  readTypedNumber,
  typedNumberProblem,
  UNIT_DIMENSION,
} from '@frustum/core'
import type { DateOrder } from '../dates.ts'
import { dateOrderOf } from '../dates.ts'
import { readLogTime, WallClock } from './logTimes.ts'

/** A position as a log knows it. */
export interface LoggedPosition {
  code: string
  unit: string
}

/** Rows that are looked at to see what is what. */
const SAMPLE = 200
const MOST_CHANNELS = 200
const SHOWN_WRONG = 20

const TIME_HEADS = /^(time|date|datum|zeit|timestamp|date[ _-]?time|recorded|logged|at|when|t)\b/i
const NAME_HEADS = /^(name|sensor|channel|tag|point|probe|position|series|metric|parameter|code)\b/i
const VALUE_HEADS = /^(value|reading|shown|val|wert|v)\b/i
/** "pH (pH)", "EC [µS/cm]", "Temp, °C". */
const UNIT_IN_HEAD = /[([]\s*([^)\]]+?)\s*[)\]]\s*$|,\s*([^,]+)$/

/** "T1-pH temp", "Temperature T1-pH". */
const TEMPERATURE = /(^|[^a-z])temp(erature?)?([^a-z]|$)/i

/** A log as a table, looked at: what is what in it. */
export interface Laid {
  headers: string[]
  columns: LogColumns
  channels: LogChannel[]
  dateOrder: DateOrder | null
  /** What marks decimals in it, where its numbers tell. */
  mark: DecimalMark | undefined
  asked: string[]
}

const isOpen = (text: string): boolean => {
  const read = readTypedNumber(text)
  return !read.ok && read.problem === 'two-ways'
}
const isTime = (text: string) => readLogTime(text, 'dmy') !== null || readLogTime(text, 'mdy') !== null
const isClock = (text: string) => /^\d{1,2}:\d{2}(:\d{2})?(\s*[ap]m)?$/i.test(text)
const share = (rows: readonly string[][], column: number, is: (text: string) => boolean) => {
  const filled = rows.flatMap((row) => (row[column] ? [row[column]] : []))
  return filled.length === 0 ? 0 : filled.filter(is).length / filled.length
}

/** What is what in a log: as it was said, or as it looks. */
export function layOut(
  rows: readonly string[][],
  options: BringLogOptions,
  positions: readonly LoggedPosition[],
): Laid {
  const headers = (rows[0] ?? []).map((head) => head.trim())
  const sample = rows.slice(1, SAMPLE + 1)
  const columns = options.columns ?? guessColumns(headers, sample)
  const { time } = columns
  const asked: string[] = []
  if (time === null) asked.push('Say which column holds the time.')
  const dates = time === null ? [] : rows.slice(1).flatMap((row) => row[time] ?? [])
  const byFile = dateOrderOf(dates.filter((_, i) => i % Math.max(1, Math.floor(dates.length / 5000)) === 0))
  const dateOrder = options.dateOrder ?? (byFile === 'none' ? null : byFile)
  if (time !== null && dateOrder === null) asked.push('Say whether the day or the month comes first: both would fit.')
  if ((columns.name === null) !== (columns.value === null))
    asked.push('Say which column names the sensor, and which holds its value.')
  const known = new Map(options.channels?.map((c) => [c.name, c]))
  const channels = namesOf(rows, headers, columns).map((name) => known.get(name) ?? guessChannel(name, positions))
  const numbers = sample.flatMap((row) => row.filter((_, i) => i !== time && i !== columns.clock && i !== columns.name))
  const mark = decimalMarkOf(numbers)
  const open = mark === undefined && numbers.find((text) => isOpen(text))
  if (open) asked.push(`${typedNumberProblem(open, 'two-ways')} Save the file with one decimal mark that is clear.`)
  return { headers, columns, channels, dateOrder, mark, asked }
}

function guessColumns(headers: readonly string[], sample: readonly string[][]): LogColumns {
  const all = headers.map((_, i) => i)
  const likeTime = all.filter((i) => share(sample, i, isTime) > 0.8)
  const time = likeTime.find((i) => TIME_HEADS.test(headers[i] ?? '')) ?? likeTime[0] ?? null
  const clock = all.find((i) => i !== time && share(sample, i, isClock) > 0.8) ?? null
  const isNumber = (text: string) => readTypedNumber(text, 'comma').ok
  const name = all.find(
    (i) => i !== time && i !== clock && NAME_HEADS.test(headers[i] ?? '') && share(sample, i, isNumber) < 0.2,
  )
  const value =
    name === undefined ? undefined : all.find((i) => i !== time && i !== name && VALUE_HEADS.test(headers[i] ?? ''))
  return { time, clock, name: value === undefined ? null : (name ?? null), value: value ?? null }
}

/** What its channels are called: its columns, or the names in one of them. */
function namesOf(rows: readonly string[][], headers: readonly string[], { time, clock, name }: LogColumns): string[] {
  if (name !== null) {
    const names = new Set<string>()
    for (const row of rows.slice(1)) {
      if (row[name]) names.add(row[name] as string)
      if (names.size >= MOST_CHANNELS) break
    }
    return [...names]
  }
  return headers.flatMap((head, i) => (i === time || i === clock ? [] : [head || `column ${i + 1}`]))
}

function guessChannel(name: string, positions: readonly LoggedPosition[]): LogChannel {
  const [, inBrackets, behindComma] = UNIT_IN_HEAD.exec(name) ?? []
  const unit = (inBrackets ?? behindComma ?? '').trim()
  const bare = codeKey(unit ? name.slice(0, name.length - (UNIT_IN_HEAD.exec(name)?.[0].length ?? 0)) : name).trim()
  const same = positions.find((p) => codeKey(p.code) === bare || codeKey(p.code) === codeKey(name))
  const within = positions.filter((p) => codeKey(name).includes(codeKey(p.code)))
  const position = same?.code ?? (within.length === 1 ? (within[0]?.code ?? null) : null)
  const known = isUnit(unit) ? unit : ''
  const isWarmth = (of: string) => isUnit(of) && UNIT_DIMENSION[of] === 'temperature'
  const shown = positions.find((p) => p.code === position)?.unit ?? ''
  const of =
    position !== null && !isWarmth(shown) && (isWarmth(known) || TEMPERATURE.test(name)) ? 'temperature' : 'reading'
  return { name, position, unit: of === 'temperature' && known === '°C' ? '' : known, of }
}

/** Makes of a number in the file what the display would have shown; null where it is none, a sentence where it cannot. */
function converter(channel: LogChannel, positions: readonly LoggedPosition[]): ((value: number) => number) | string {
  const shown = positions.find((p) => p.code === channel.position)?.unit
  const to = channel.of === 'temperature' ? '°C' : shown
  const { unit } = channel
  if (shown === undefined || to === undefined) return `${channel.position} is no sensor here.`
  if (unit === '' || unit === to) return (value) => value
  if (!isUnit(unit) || !isUnit(to) || UNIT_DIMENSION[unit] !== UNIT_DIMENSION[to])
    return channel.of === 'temperature' ? `${unit} is no temperature.` : `It is in ${unit}, the display shows ${to}.`
  return (value) => convertUnit(value, unit, to)
}

/** Readings of a position, in the order of the file. */
export interface LoggedReadings {
  position: string
  at: number[]
  shown: number[]
  /** degC, of those times at which there was one. */
  temperatures: Map<number, number>
}

interface Reading {
  laid: Laid
  positions: readonly LoggedPosition[]
  timeZone: string
}

type Counted = Pick<BringLogView, 'channels' | 'zoned' | 'rows' | 'from' | 'to' | 'wrong' | 'wrongRows'>

/**
 * Reads a log row by row.
 * @param take told each reading, and each temperature, in the order of the file
 */
export function readLog(
  rows: readonly string[][],
  { laid: { columns, channels, headers, dateOrder, mark }, positions, timeZone }: Reading,
  take: (channel: LogChannel, at: number, value: number) => void,
): Counted {
  const { time, clock, name, value } = columns
  const converters = channels.map((c) => (c.position === null ? null : converter(c, positions)))
  const counted = channels.map((channel, i) => {
    const problem = converters[i]
    return { ...channel, readings: 0, first: '', problem: typeof problem === 'string' ? problem : null }
  })
  const clocks = channels.map(() => new WallClock(timeZone))
  const byName = new Map(channels.map((channel, i) => [channel.name, i]))
  const byColumn = headers.map((head, i) =>
    i === time || i === clock ? null : (byName.get(head || `column ${i + 1}`) ?? null),
  )
  const result: Counted = { channels: counted, zoned: 'none', rows: 0, from: null, to: null, wrong: 0, wrongRows: [] }
  const seen = { zoned: false, bare: false }
  const refuse = (number: number, why: string) => {
    result.wrong++
    if (result.wrongRows.length < SHOWN_WRONG) result.wrongRows.push({ number, why })
  }
  const put = (number: number, channel: number, text: string, written: NonNullable<ReturnType<typeof readLogTime>>) => {
    const count = counted[channel] as (typeof counted)[number]
    if (count.first === '') count.first = text
    const convert = converters[channel]
    // Each sensor of a log that names them has its own order of times.
    const at = 'at' in written ? written.at : (clocks[channel] as WallClock).instant(written.wall)
    if (typeof convert !== 'function') return
    const read = quickNumber(text, mark)
    if (read === null) return refuse(number, `${count.name}: “${text.slice(0, 30)}” is not a number.`)
    count.readings++
    result.from = result.from === null ? at : Math.min(result.from, at)
    result.to = result.to === null ? at : Math.max(result.to, at)
    take(count, at, convert(read))
  }
  for (let r = 1; r < rows.length; r++) {
    const row = rows[r] as string[]
    if (time === null || row.every((cell) => cell === '')) continue
    result.rows++
    const text = clock === null ? (row[time] ?? '') : `${row[time] ?? ''} ${row[clock] ?? ''}`
    const written = readLogTime(text.trim(), dateOrder ?? 'dmy')
    if (!written) {
      refuse(r + 1, text.trim() === '' ? 'It has no time.' : `“${text.slice(0, 40)}” is no time.`)
      continue
    }
    if ('at' in written) seen.zoned = true
    else seen.bare = true
    if (name !== null && value !== null) {
      const channel = byName.get(row[name] ?? '')
      if (channel !== undefined && row[value]) put(r + 1, channel, row[value] as string, written)
      continue
    }
    for (let c = 0; c < byColumn.length; c++) {
      const channel = byColumn[c]
      if (channel != null && row[c]) put(r + 1, channel, row[c] as string, written)
    }
  }
  return { ...result, zoned: seen.zoned ? (seen.bare ? 'some' : 'all') : 'none' }
}

/** As fast as it goes for what a machine wrote; what people write is read as everywhere else. */
function quickNumber(text: string, mark: DecimalMark | undefined): number | null {
  const number = Number(text)
  if (!Number.isNaN(number) && Number.isFinite(number)) return number
  const read = readTypedNumber(text, mark)
  return read.ok ? read.value : null
}
