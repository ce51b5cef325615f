import {
  type BringPastOptions,
  type BringPastView,
  type ColumnChoice,
  PAST_COLUMN_NAMES,
  PAST_COLUMNS,
  type PastAnswers,
  type PastColumn,
} from '@frustum/contract'
import {
  type CalibrationParameters,
  convertUnit,
  type DecimalMark,
  type DeviceSetting,
  decimalMarkOf,
  implausible,
  isFahrenheit,
  modelOf,
  type PastCalibration,
  type PastPoint,
  ROOM_TEMPERATURE,
  readTypedNumber,
  readTypedTemperature,
  type SensorKind,
  type SlopeScale,
  slopeScaleOf,
  standardCalled,
  statedKeys,
  statedSlope,
  statedZero,
  typedNumberProblem,
  UNIT_DIMENSION,
  unitOf,
  type ZeroScale,
  zeroScaleOf,
} from '@frustum/core'
import { fromHeadings, type RowReader, readerOf } from './columns.ts'
import { type Calendar, dateOrderOf, readDate, readTwoWays } from './dates.ts'
import { guessPastColumns, standardIn } from './pastHeadings.ts'

/** Rows of a list of past calibrations, as what they say: text becomes numbers, and what is missing is asked or named. */

/** The sensor that a row means, as far as reading it needs to know. */
interface MeantSensor {
  installationId: number
  kind: SensorKind
  device: DeviceSetting
}

export interface PastRow {
  /** In the sheet, its heading being the first. */
  number: number
  code: string
  who: string
  sensor: MeantSensor
  past: PastCalibration
  /** What was taken from the row above. */
  said: string
}

interface WrongRow {
  number: number
  code: string
  wrong: Partial<Record<PastColumn, string>>
}

export type ReadRow = PastRow | WrongRow

export interface PastSheet {
  headingRow: number
  firstRows: string[]
  headers: readonly string[]
  columns: ColumnChoice<PastColumn>
  asked: BringPastView['asked']
  answers: PastAnswers
  someWithoutSensor: boolean
  rows: ReadRow[]
}

interface Context extends Omit<Calendar, 'order'> {
  file: string
  sha256: string
  /** The sensor of a code and a serial number at an instant, or why there is none. */
  find(code: string, serial: string, at: number): MeantSensor | { wrong: Partial<Record<PastColumn, string>> }
}

/** A row as text: what stands in it, or in the row above where cells were merged. */
interface TextRow {
  number: number
  cells: readonly string[]
  reader: RowReader<PastColumn>
  date: string
  time: string
  code: string
  serial: string
  fromAbove: string[]
}

const POINTS = [1, 2, 3] as const
/** Columns in the unit of the display, and all that hold numbers. */
const DISPLAYED: readonly PastColumn[] = [
  ...POINTS.flatMap((i) => [`before${i}`, `after${i}`] as const),
  'right',
  'shown',
]
const NUMBERS: readonly PastColumn[] = [...DISPLAYED, 'slope', 'zero', 'factor']
const NAMING: readonly PastColumn[] = ['date', 'time', 'code', 'serial']

/** @throws nothing: what is wrong stands with its row */
export function readPastRows(
  sheet: readonly (readonly string[])[],
  options: Pick<BringPastOptions, 'columns' | 'headingRow' | 'sensor' | keyof PastAnswers>,
  context: Context,
): PastSheet {
  const found = fromHeadings(sheet, guessPastColumns, options.headingRow)
  const { headingRow, firstRows, headers } = found
  const columns = options.columns ?? guessPastColumns(headers)
  const rows = textRows(found, columns)
  const answers = answersOf(rows, columns, headers, options)
  const nameless = rows.filter((row) => row.code === '' && row.serial === '')
  const asked = questionsOf(rows, columns, answers)
  if (nameless.length > 0 && options.sensor === null)
    asked.unshift({ question: 'sensor', because: namelessWords(nameless) })
  for (const row of nameless) row.code = options.sensor ?? ''
  const mark = markOf(rows)
  return {
    headingRow,
    firstRows,
    headers,
    columns,
    asked,
    answers,
    someWithoutSensor: nameless.length > 0,
    // Nothing is made of a file that can be read in two ways.
    rows: asked.length > 0 ? [] : rows.map((row) => readRow(row, { headers, columns, answers, context, mark })),
  }
}

const namelessWords = (rows: readonly TextRow[]): string =>
  rows.length === 1 ? `Row ${rows[0]?.number} names no sensor.` : `${rows.length} rows name no sensor.`

function textRows(
  { headingRow, headers, body }: ReturnType<typeof fromHeadings>,
  columns: ColumnChoice<PastColumn>,
): TextRow[] {
  const rows: TextRow[] = []
  for (const [i, cells] of body.entries()) {
    const isHeading = cells.every((cell, at) => cell.toLowerCase() === (headers[at] ?? '').toLowerCase())
    if (cells.every((cell) => cell === '') || isHeading) continue
    const reader = readerOf(headers, columns, cells)
    const above = rows.at(-1)
    const says = PAST_COLUMN_NAMES.some((c) => !NAMING.includes(c) && c !== 'note' && reader.cell(c) !== '')
    const row: TextRow = {
      number: headingRow + i + 1,
      cells,
      reader,
      date: reader.cell('date'),
      time: reader.cell('time'),
      code: reader.cell('code'),
      serial: reader.cell('serial'),
      fromAbove: [],
    }
    // A merged cell has its text in its first row only.
    if (above && says && row.date === '') {
      row.date = above.date
      row.time = row.time || above.time
      row.fromAbove.push('date')
    }
    if (above && says && row.code === '' && row.serial === '') {
      row.code = above.code
      row.serial = above.serial
      row.fromAbove.push('sensor')
    }
    rows.push(row)
  }
  return rows
}

/** A number and what stands behind it, "7.05", "pH 7,05", "1.38 mS/cm". */
const partsOf = (text: string): { digits: string; unit: string } => {
  const [, digits = '', unit = ''] = /^(?:pH\s*)?([-+\u2212]?[\d.,\s\u00a0\u202f]*\d)\s*(.*)$/iu.exec(text.trim()) ?? []
  return { digits, unit: unit.trim() }
}

const numberIn = (text: string, mark?: DecimalMark): number | null => {
  const read = readTypedNumber(partsOf(text).digits, mark)
  return read.ok ? read.value : null
}

const numbersIn = (rows: readonly TextRow[], column: PastColumn, mark?: DecimalMark) =>
  rows.flatMap(({ reader }) => numberIn(reader.cell(column), mark) ?? [])

/** Names of salinity on displays and in lists: practical salinity has no unit. */
const SALINITY = /^(psu|ppt|s|g\/kg)$/i

/**
 * A value of a list in the unit of a display, by the unit of its cell or else of its heading.
 * @returns what is wrong, where the two do not go together
 */
function inUnitOf(value: number, written: string, shown: string): number | string {
  if (written === '' || written.toLowerCase() === shown.toLowerCase()) return value
  if (SALINITY.test(written) && shown === 'PSU') return value
  const [from, to] = [unitOf(written), unitOf(shown)]
  if (from === to && from !== null) return value
  if (from === null || to === null || UNIT_DIMENSION[from] !== UNIT_DIMENSION[to])
    return `It is in ${written}, but the display shows ${shown}.`
  return convertUnit(value, from, to)
}

/** What marks decimals in a list, as its numbers tell. */
const markOf = (rows: readonly TextRow[]): DecimalMark | undefined =>
  decimalMarkOf(rows.flatMap(({ reader }) => NUMBERS.map((column) => partsOf(reader.cell(column)).digits)))

/** What was answered, or what the file itself tells. */
function answersOf(
  rows: readonly TextRow[],
  columns: ColumnChoice<PastColumn>,
  headers: readonly string[],
  options: PastAnswers,
): PastAnswers {
  const order = dateOrderOf(rows.map((r) => r.date))
  const unit = (column: PastColumn) => (headers[columns[column] ?? -1] ?? '').toLowerCase()
  const mark = markOf(rows)
  const slopes = numbersIn(rows, 'slope', mark)
  const zeros = numbersIn(rows, 'zero', mark)
  return {
    dateOrder: options.dateOrder ?? (order === 'none' ? null : order),
    slopeIn: options.slopeIn ?? slopeUnit(unit('slope')) ?? (slopes.length > 0 ? slopeScaleOf(slopes) : 'percent'),
    zeroIn: options.zeroIn ?? zeroUnit(unit('zero')) ?? zeroScaleOf(zeros),
    without: options.without,
  }
}

const slopeUnit = (heading: string): SlopeScale | null =>
  heading.includes('%') || heading.includes('percent') ? 'percent' : heading.includes('mv') ? 'millivolts' : null

const zeroUnit = (heading: string): ZeroScale | null =>
  heading.includes('mv') ? 'millivolts' : /\(ph\)|\[ph\]|\bph0\b/.test(heading) ? 'atZero' : null

function questionsOf(
  rows: readonly TextRow[],
  columns: ColumnChoice<PastColumn>,
  answers: PastAnswers,
): BringPastView['asked'] {
  const asked: BringPastView['asked'] = []
  const example = (column: PastColumn) => rows.find((r) => r.reader.cell(column) !== '')?.reader.cell(column) ?? ''
  if (answers.dateOrder === null && columns.date != null) {
    asked.push({
      question: 'dateOrder',
      because: `"${readTwoWays(rows.map((r) => r.date)) ?? ''}" can be read in two ways.`,
    })
  }
  if (answers.slopeIn === null) {
    asked.push({
      question: 'slopeIn',
      because: `${example('slope')} can be millivolts, or the percentage of a spent electrode.`,
    })
  }
  if (answers.zeroIn === null) {
    asked.push({ question: 'zeroIn', because: `${example('zero')} can be millivolts, or the pH at 0 mV.` })
  }
  const bare = rows.find((r) => hasBefore(r) && says(r, 'calibrated') === '' && !tellsCalibration(r))
  if (answers.without === null && bare) {
    asked.push({
      question: 'without',
      because: `Row ${bare.number} says what was read, and not whether anything was changed.`,
    })
  }
  return asked
}

const says = ({ reader }: TextRow, column: PastColumn) => reader.cell(column)
const hasBefore = (row: TextRow) => says(row, 'shown') !== '' || POINTS.some((i) => says(row, `before${i}`) !== '')
/** What is there only after a calibration. */
const tellsCalibration = (row: TextRow) =>
  POINTS.some((i) => says(row, `after${i}`) !== '') ||
  (['slope', 'zero', 'factor'] as const).some((c) => says(row, c) !== '')

/** The unit in brackets at the end of a heading, where it is one: "Before (mS/cm)". */
function unitInHeading(heading: string): string {
  const [, unit = ''] = /[([]\s*([^)\]]+?)\s*[)\]]\s*$/.exec(heading) ?? []
  return unitOf(unit) !== null || SALINITY.test(unit) ? unit : ''
}

const YES = /^(y|yes|x|true|1|✓|ok|cal|calibrated|adjusted|calibration|adjustment)$/i
const NO = /^(n|no|false|0|check|checked|look|verified|verification|only checked|as is)$/i

interface Reading {
  headers: readonly string[]
  columns: ColumnChoice<PastColumn>
  answers: PastAnswers
  context: Context
  mark: DecimalMark | undefined
}

function readRow(row: TextRow, { headers, columns, answers, context, mark }: Reading): ReadRow {
  const { reader, number } = row
  const wrong: WrongRow['wrong'] = {}
  const read = (column: PastColumn, shownUnit = ''): number | null => {
    const text = reader.cell(column)
    if (text === '') return null
    const { digits, unit } = partsOf(text)
    const typed = readTypedNumber(digits, mark)
    if (!typed.ok) {
      wrong[column] = typedNumberProblem(typed.problem === 'two-ways' ? digits : text, typed.problem)
      return null
    }
    if (shownUnit === '' || !DISPLAYED.includes(column)) return typed.value
    const value = inUnitOf(typed.value, unit || unitInHeading(headers[columns[column] ?? -1] ?? ''), shownUnit)
    if (typeof value === 'number') return value
    wrong[column] = value
    return null
  }
  const when = readDate(row.date, row.time, { ...context, order: answers.dateOrder ?? 'dmy' })
  if (!when) wrong.date = row.date === '' ? 'There is no date.' : `"${row.date}" is no date.`
  else if (when.from > context.now) wrong.date = `${row.date} lies in the future.`
  // Of today it was before now, whenever that was.
  const at = Math.min(when?.at ?? 0, context.now)
  if (row.code === '' && row.serial === '') wrong.code = 'Which sensor?'
  const found = when && !wrong.date && !wrong.code ? context.find(row.code, row.serial, at) : null
  if (found && 'wrong' in found) Object.assign(wrong, found.wrong)
  if (!when || !found || 'wrong' in found) return { number, code: row.code || row.serial, wrong }
  const { kind, device } = found
  const meant = signalMeant(found, headers, columns)
  const unit = meant ? modelOf(kind).signalUnit : modelOf(kind).shownScale(device).unit
  const points = POINTS.flatMap((i): PastPoint[] => {
    const [before, after] = [read(`before${i}`, unit), read(`after${i}`, unit)]
    if (before === null && after === null) return []
    const inHeading = standardIn(headers[columns[`before${i}`] ?? columns[`after${i}`] ?? -1] ?? '')
    const called = reader.cell(`standard${i}`) || inHeading || ''
    const standard = called === '' ? null : standardCalled(kind, called, device)
    if (!standard) {
      wrong[`standard${i}`] =
        called === '' ? 'In which standard was it read?' : `There is no standard "${called}" for it.`
      return []
    }
    return [{ standard: standard.code, before, after }]
  })
  const stated = statedIn(kind, { slope: read('slope'), zero: read('zero'), factor: read('factor') }, answers, wrong)
  const [right, shown] = [read('right', unit), read('shown', unit)]
  if (right !== null && shown === null) wrong.shown = 'What did the device show beside it?'
  const temperature = temperatureIn(reader, wrong)
  const did = reader.cell('calibrated')
  if (did !== '' && !YES.test(did) && !NO.test(did)) wrong.calibrated = `"${did}": was it calibrated, or only checked?`
  const calibrated = did === '' ? tellsCalibration(row) || answers.without === 'calibrated' : YES.test(did)
  const code = row.code || row.serial
  if (Object.keys(wrong).length > 0) return { number, code, wrong }
  return {
    number,
    code,
    who: reader.cell('who'),
    sensor: found,
    said: row.fromAbove.length > 0 ? `${row.fromAbove.join(' and ')} as in the row above` : '',
    past: {
      at,
      row: { ...asWritten(headers, row.cells), file: context.file, row: number, 'SHA-256': context.sha256 },
      points,
      reference: points.length === 0 && right !== null && shown !== null ? { right, shown } : null,
      temperature,
      readAs: meant ? 'signal' : 'shown',
      stated,
      calibrated,
    },
  }
}

/** The cells of a row under their headings; those without one under their place. */
const asWritten = (headers: readonly string[], cells: readonly string[]): Record<string, string> =>
  Object.fromEntries(cells.flatMap((cell, i) => (cell === '' ? [] : [[headers[i] || `column ${i + 1}`, cell]])))

/** The signal and not the display, where headings say mV of what shows something else. */
const signalMeant = ({ kind, device }: MeantSensor, headers: readonly string[], columns: ColumnChoice<PastColumn>) =>
  modelOf(kind).signalUnit === 'mV' &&
  modelOf(kind).shownScale(device).unit !== 'mV' &&
  POINTS.some((i) => /\bmv\b/i.test(headers[columns[`before${i}`] ?? -1] ?? ''))

function temperatureIn(reader: RowReader<PastColumn>, wrong: WrongRow['wrong']): number | null {
  const text = reader.cell('temperature')
  if (text === '') return null
  const isF = /^°?\s*f/i.test(reader.unit('temperature'))
  const read = readTypedTemperature(isF && /\d$/.test(text) ? `${text} F` : text)
  if (!read.ok) {
    wrong.temperature = `"${text}" is no temperature.`
    return null
  }
  if (!isF && /\d$/.test(text) && isFahrenheit(read.value, ROOM_TEMPERATURE)) {
    wrong.temperature = `${text} looks like °F; write the unit behind it, or into the heading.`
  }
  return read.value
}

interface Stated {
  slope: number | null
  zero: number | null
  factor: number | null
}

function statedIn(
  kind: SensorKind,
  { slope, zero, factor }: Stated,
  answers: PastAnswers,
  wrong: WrongRow['wrong'],
): CalibrationParameters {
  const keys = statedKeys(kind)
  const stated: Record<string, number> = {}
  if (slope !== null && keys.slope !== null) {
    const efficiency = statedSlope(kind, slope, answers.slopeIn ?? 'percent')
    if (efficiency === null) wrong.slope = 'Of this kind of sensor it is read in % only.'
    else stated[keys.slope] = efficiency
  }
  if (zero !== null && keys.zero !== null) {
    const efficiency = keys.slope === null ? 1 : (stated[keys.slope] ?? 1)
    stated[keys.zero] = statedZero(kind, zero, answers.zeroIn ?? 'millivolts', efficiency)
  }
  if (factor !== null && keys.factor !== null) stated[keys.factor] = factor
  for (const [column, key] of Object.entries(keys)) {
    const value = { slope, zero, factor }[column as keyof Stated]
    const label = PAST_COLUMNS[column as keyof Stated].label.toLowerCase()
    if (value !== null && key === null) wrong[column as keyof Stated] = `A sensor of this kind has no ${label}.`
  }
  const slip = implausible(kind, stated)
  if (slip) {
    const column = Object.entries(keys).find(([, key]) => key !== null && key === slip.key)?.[0] as
      | PastColumn
      | undefined
    wrong[column ?? 'slope'] = `${slip.label} must lie within ${slip.low} and ${slip.high} ${slip.unit}.`
  }
  return stated
}
