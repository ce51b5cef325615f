import type { HealthTraits } from '../health/healthTraits.ts'
import type { SimulatorRow, SimulatorTraits } from '../procedures/procedure.ts'
import { celsius, exactly, quantity, say } from '../quantities/sentence.ts'
import { platinumResistance } from '../temperature/platinum.ts'

/** A sensor without electrode or cell: little of it can be told from outside. */
export const PLAIN_HEALTH: Omit<HealthTraits, 'causes'> = {
  referenceElectrode: false,
  cell: false,
  glass: false,
  thermometer: true,
  slopeKey: null,
  zeroKey: null,
  // What is measured is the electrode less its reference.
  zeroWithReference: -1,
  // Common practice, no source.
  zeroScatter: 1.2,
  leastSlope: null,
  greatestZero: null,
}

/** Where the rows span more than this ratio, a share of the largest says nothing about the small ones. */
const WIDE_SPAN = 5

/**
 * Largest error of a transmitter with a simulator: two percent of the largest right value; over a wide span of each value
 * itself, and for 0 of the smallest other one (common practice, no source).
 */
export const TWO_PERCENT: SimulatorTraits['tolerance'] = (right, all) => {
  const sizes = all.map(Math.abs).filter((v) => v > 0)
  const [least, most] = [Math.min(...sizes), Math.max(...sizes)]
  return 0.02 * (most / least <= WIDE_SPAN ? most : Math.abs(right) || least)
}

/** Millivolts as they stand, or with the temperature that goes with them. */
export const millivoltRow = (mv: number, atTemperature = false): SimulatorRow => ({
  label: atTemperature ? say`${exactly(mv, 'mV')}, ${celsius(25, 0)}` : say`${exactly(mv, 'mV')}`,
  signal: mv,
  temperature: 25,
})

/** Millivolts of one's own. */
export const MILLIVOLT_UNITS: SimulatorTraits['units'] = {
  mV: (mv, temperature) => ({
    label: say`${exactly(mv, 'mV')}, ${celsius(temperature, 0)}`,
    signal: mv,
    temperature,
  }),
}

/** A decade box plays the resistance of a Pt1000 (IEC 60751). */
export const pt1000 = (t: number): SimulatorRow => ({
  label: say`${quantity(platinumResistance(t, 1000), 'Ω', 1)}, Pt1000 at ${celsius(t, 0)}`,
  signal: t,
  temperature: 25,
})

/** Correction of a straight reading by its gain: both parameters by one factor. */
export const byGain = (active: Readonly<Record<string, number>>, right: number, frozen: number) => {
  const factor = right / frozen
  return { gain: (active.gain ?? 1) * factor, offset: (active.offset ?? 0) * factor }
}
