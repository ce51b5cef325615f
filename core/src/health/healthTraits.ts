import type { Cause } from './causes.ts'

/** What a kind of sensor has that can go wrong, and by which of its parameters that is seen. */
export interface HealthTraits {
  /** Causes that are possible, and how often a sensor in trouble has each: parts, not percent. */
  causes: Readonly<Partial<Record<Cause, number>>>
  /** Has a reference electrode with its electrolyte and junction. */
  referenceElectrode: boolean
  /** Measures with a cell whose figures are shares of the reading. */
  cell: boolean
  /** Has a glass membrane whose resistance tells. */
  glass: boolean
  /** Has a thermometer beside what it measures, which can be wrong by itself. */
  thermometer: boolean
  /** Names of the calibration parameters that are slope efficiency (1) and zero (mV). */
  slopeKey: string | null
  zeroKey: string | null
  /** Which way its zero goes as the potential of its reference rises. */
  zeroWithReference: 1 | -1
  /** By how much the zero of a sound one scatters from visit to visit, mV (sd). */
  zeroScatter: number
  /** Below this slope it is replaced, % of ideal. */
  leastSlope: number | null
  /** Beyond this zero it is replaced, mV. */
  greatestZero: number | null
}
