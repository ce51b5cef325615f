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
export type ColumnChoice = Partial<Record<SensorColumn, number | null>>

/** What holds for all rows that do not say it themselves, and what is to be done with them. */
export interface BringOptions {
  sheet: number
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
