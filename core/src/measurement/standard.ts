import type { Quantity } from '../quantities/sentence.ts'
import type { Hazard } from '../standards/hazards.ts'
import type { PhTable } from '../standards/phBuffers.ts'
import type { SensorKind } from './sensorKind.ts'

/** What is poured into a cup for one point, mL (common practice, no source). */
export const POURING_ML = 20

export interface Keeping {
  days: number
  storage: string
}

/** Of standards of which nothing else is known (common practice, no source). */
export const USUAL_KEEPING: Keeping = { days: 90, storage: 'Room, dark' }

/** Codes of those that may be poured: of one that was put away only records speak. */
export const pourable = (standards: readonly Standard[]): string[] =>
  standards.filter((s) => !s.archived).map((s) => s.code)

/** A bottled standard of any kind, as the Shelf and the Bench see it. */
export interface Standard {
  code: string
  /** The kind of sensor it is made for. */
  kind: SensorKind
  label: string
  /** As short as still tells it from the others of its kind. */
  shortLabel: string
  /** Unit of its value: pH, uS/cm, mV (Eh), mg/L (activity). */
  unit: string
  decimals: number
  /** Value on the label, at 25 degC. */
  nominal: number
  /** Half-width of the 95 % interval of its value at 25 degC, in its unit. */
  uncertainty: number
  /** Whether that half-width grows with the value: it is stated in percent. */
  relative: boolean
  /** Where its value is known, degC. */
  low: number
  high: number
  /** What it can do to the person who pours it; empty for harmless ones. */
  caution: string
  hazard?: Hazard
  /** Days that it keeps once opened, and how it is stored; USUAL_KEEPING unless said. */
  keeping?: Keeping
  /** One of the site's own that was put away. */
  archived?: boolean
  /** Whether a lot can come with a printed table of its own. */
  takesLotTable: boolean
  /**
   * Its value at a temperature, in its unit: pH, uS/cm as it is there, Eh in mV, ion activity in mg/L.
   * @param lotTable the lot's own printed table, which wins
   * @throws OutOfRange for the temperature
   */
  valueAt(temperature: number, lotTable?: PhTable): number
  /** A value of it as it is written, on the scale of its size. */
  quantityOf(value: number): Quantity
}
