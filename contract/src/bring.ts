import { SLOPE_SCALES, ZERO_SCALES } from '@frustum/core'

/** What a list of sensors may say of each, and how its columns are likely headed, in lower case. */
export const SENSOR_COLUMNS = {
  code: { label: 'Code', also: ['code', 'tag', 'position', 'id', 'name', 'loop', 'sensor'] },
  kind: { label: 'What it measures', also: ['kind', 'type', 'measures', 'parameter', 'quantity', 'measurement'] },
  place: { label: 'Place', also: ['place', 'room', 'hall', 'area', 'building', 'location', 'site'] },
  spot: { label: 'Where exactly', also: ['spot', 'tank', 'line', 'where', 'point', 'loop name'] },
  water: { label: 'Water', also: ['water', 'medium', 'fluid'] },
  device: { label: 'Device', also: ['device', 'controller', 'transmitter', 'monitor', 'meter', 'instrument'] },
  key: { label: 'Its CAL key', also: ['cal key', 'key', 'calibration key'] },
  serial: { label: 'Serial number', also: ['serial', 'serial number', 'serial no', 's/n', 'sn', 'no.'] },
  model: { label: 'Type of the sensor', also: ['model', 'sensor type', 'probe type', 'make'] },
  processValue: { label: 'Usual value', also: ['usual', 'usual value', 'value', 'setpoint', 'normal', 'target'] },
  processTemperature: { label: 'Usual temperature', also: ['temperature', 'temp', 'usual temperature'] },
  tolerance: { label: 'Tolerance', also: ['tolerance', 'limit', 'limits', 'max error', 'allowed error', '±', '+/-'] },
  startingDays: { label: 'Every so many days', also: ['interval', 'every', 'days', 'frequency', 'cal interval'] },
} as const satisfies Record<string, { label: string; also: readonly string[] }>

export type SensorColumn = keyof typeof SENSOR_COLUMNS
export const SENSOR_COLUMN_NAMES = Object.keys(SENSOR_COLUMNS) as SensorColumn[]

/** Which column of the sheet holds what, by its number from 0; null where none does. */
export type ColumnChoice<Column extends string = SensorColumn> = Partial<Record<Column, number | null>>

/** What holds for all rows that do not say it themselves, and what is to be done with them. */
export interface BringOptions {
  sheet: number
  /** Number of the row with the headings, from 1; null to find it. */
  headingRow: number | null
  columns: ColumnChoice | null
  place: string
  water: string
  adjustsBy: 'key' | 'numbers' | 'nothing'
  inUse: boolean
  /** Takes the others although these rows are wrong. */
  leaveOut: boolean
  /** False: only looked at. */
  take: boolean
}

/** What becomes of a file of sensors, or what became of it. */
export interface BringView {
  sheets: string[]
  sheet: number
  /** Number of the row whose cells are the headings, from 1, and how the first rows begin, to choose another. */
  headingRow: number
  firstRows: string[]
  headers: string[]
  columns: ColumnChoice
  rows: {
    /** In the sheet, its heading being the first. */
    number: number
    code: string
    /** New, there already, empty, or not to be taken. */
    state: 'new' | 'known' | 'wrong'
    what: string
    /** Sentences on what is wrong, by column. */
    wrong: Record<string, string>
  }[]
  taken: number | null
  /** SHA-256 of the file. */
  sha256: string
}

/** What a list of past calibrations may say of each, and how its columns are likely headed, in lower case. */
export const PAST_COLUMNS = {
  date: { label: 'Date', also: ['date', 'day', 'when', 'calibrated on', 'date of calibration', 'cal date'] },
  time: { label: 'Time', also: ['time', 'hour'] },
  code: { label: 'Code', also: ['code', 'tag', 'position', 'sensor', 'probe', 'loop', 'id', 'name', 'electrode'] },
  serial: { label: 'Serial number', also: ['serial', 'serial number', 'serial no', 's/n', 'sn'] },
  standard1: { label: 'First standard', also: ['standard', 'standard 1', 'buffer', 'buffer 1', 'first standard'] },
  before1: {
    label: 'First, before',
    also: ['before', 'before 1', 'as found', 'found', 'reading', 'reading 1', 'read', 'reads', 'shown', 'value'],
  },
  after1: { label: 'First, after', also: ['after', 'after 1', 'as left', 'left'] },
  standard2: { label: 'Second standard', also: ['standard 2', 'buffer 2', 'second standard'] },
  before2: { label: 'Second, before', also: ['before 2', 'as found 2', 'reading 2'] },
  after2: { label: 'Second, after', also: ['after 2', 'as left 2'] },
  standard3: { label: 'Third standard', also: ['standard 3', 'buffer 3', 'third standard'] },
  before3: { label: 'Third, before', also: ['before 3', 'as found 3', 'reading 3'] },
  after3: { label: 'Third, after', also: ['after 3', 'as left 3'] },
  right: {
    label: 'Kit or laboratory',
    also: ['kit', 'lab', 'laboratory', 'reference', 'hand meter', 'sample', 'photometer', 'titration'],
  },
  shown: { label: 'Shown beside it', also: ['display', 'controller', 'online', 'process', 'sensor reading'] },
  temperature: { label: 'Temperature', also: ['temperature', 'temp', 't', 'buffer temperature'] },
  slope: { label: 'Slope', also: ['slope', 'efficiency', 'slope %', 'gain', 'sensitivity'] },
  zero: { label: 'Zero or offset', also: ['zero', 'offset', 'zero point', 'asymmetry', 'zero offset', 'mv offset'] },
  factor: { label: 'Cell factor', also: ['cell factor', 'factor', 'k', 'cell constant'] },
  calibrated: {
    label: 'Calibrated or only checked',
    also: ['calibrated', 'adjusted', 'action', 'done', 'what was done'],
  },
  who: { label: 'Who', also: ['who', 'by', 'operator', 'technician', 'initials', 'done by', 'person'] },
  note: { label: 'Note', also: ['note', 'notes', 'remark', 'remarks', 'comment', 'comments'] },
} as const satisfies Record<string, { label: string; also: readonly string[] }>

export type PastColumn = keyof typeof PAST_COLUMNS
export const PAST_COLUMN_NAMES = Object.keys(PAST_COLUMNS) as PastColumn[]

/** What a file may leave open, and cannot be guessed. */
export const PAST_QUESTIONS = {
  dateOrder: {
    label: 'Which comes first in a date?',
    choices: { dmy: 'the day', mdy: 'the month' },
  },
  slopeIn: {
    label: 'In what are the slopes?',
    choices: SLOPE_SCALES,
  },
  zeroIn: {
    label: 'In what are the zeros?',
    choices: ZERO_SCALES,
  },
  without: {
    label: 'A row with readings alone was',
    choices: { calibrated: 'a calibration', checked: 'a look: nothing was changed' },
  },
} as const

export type PastQuestion = keyof typeof PAST_QUESTIONS
export type PastAnswers = {
  [Q in PastQuestion]: keyof (typeof PAST_QUESTIONS)[Q]['choices'] | null
}

export interface BringPastOptions extends PastAnswers {
  sheet: number
  headingRow: number | null
  /** Code of the sensor of all rows that name none; '' where such rows are wrong, null where it is to be asked. */
  sensor: string | null
  columns: ColumnChoice<PastColumn> | null
  /** Takes the others although these rows are wrong. */
  leaveOut: boolean
  /** False: only looked at. */
  take: boolean
}

/** What becomes of a list of past calibrations, or what became of it. */
export interface BringPastView extends Omit<BringView, 'columns'> {
  columns: ColumnChoice<PastColumn>
  /** What has to be answered first, each with what was found that leaves it open. */
  asked: { question: PastQuestion | 'sensor'; because: string }[]
  /** As they are read: what was answered, or what the file itself tells. */
  answers: PastAnswers
  /** Whether rows without a sensor were found. */
  someWithoutSensor: boolean
}

/** How far an import has come. */
export interface BringProgress {
  done: number
  of: number
}

/** A file that was taken in before. */
export interface TakenFile {
  id: number
  at: number
  operator: string
  what: 'sensors' | 'past' | 'records' | 'set-up' | 'log'
  fileName: string
  sha256: string
  /** How many of what. */
  counts: Record<string, number>
}

/** A column, or a name within one, that holds what a sensor read. */
export interface LogChannel {
  /** As it is called in the file. */
  name: string
  /** Whose it is; null to leave it out. */
  position: string | null
  /** In which unit it is; empty for that of the display, or degC. */
  unit: string
  /** What of it: its reading, or the temperature that stood beside it at the same time. */
  of: LogPart
}

export const LOG_PARTS = ['reading', 'temperature'] as const
export type LogPart = (typeof LOG_PARTS)[number]

/** Which column of a log holds what, by its number from 0. */
export interface LogColumns {
  /** Date and time, or the date. */
  time: number | null
  /** The time of day, where it stands in a column of its own. */
  clock: number | null
  /** Where each row names its sensor: the name, and the value. Null where each sensor has its column. */
  name: number | null
  value: number | null
}

export interface BringLogOptions {
  sheet: number
  columns: LogColumns | null
  channels: LogChannel[] | null
  dateOrder: 'dmy' | 'mdy' | null
  /** Of times that say no zone; null for that of the site. */
  timeZone: string | null
  leaveOut: boolean
  take: boolean
}

/** A log whose columns are taken for what they look like, until somebody says otherwise. */
export const LOG_AS_IT_LOOKS: BringLogOptions = {
  sheet: 0,
  columns: null,
  channels: null,
  dateOrder: null,
  timeZone: null,
  leaveOut: false,
  take: false,
}

/** What becomes of a log, or what became of it. */
export interface BringLogView {
  sheets: string[]
  sheet: number
  headers: string[]
  columns: LogColumns
  /** What was found in the file, with what it is likely of. */
  channels: (LogChannel & {
    readings: number
    first: string
    /** Why it cannot be read so; null where it can. */
    problem: string | null
  })[]
  /** What has to be said first; empty where nothing has. */
  asked: string[]
  dateOrder: 'dmy' | 'mdy' | null
  timeZone: string
  /** Whether there is a time without a zone, and with one. */
  zoned: 'none' | 'some' | 'all'
  rows: number
  from: number | null
  to: number | null
  /** Those that cannot be read, the first of them with why. */
  wrong: number
  wrongRows: { number: number; why: string }[]
  /** How many are new; null where nothing was taken in. */
  taken: number | null
}
