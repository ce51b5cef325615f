import type { SensorTruth } from './simulatedSensor.ts'

/** Of a new gel electrode: MOhm at 25 degC, kOhm; orders of magnitude from memory of handbooks. */
const NEW_GLASS = 110
const NEW_JUNCTION = 4
const CRACKED = 0.6
/** A glass whose slope has gone by a tenth resists twice as much. */
const PER_SLOPE_LOST = 10
const SOUND_SLOPE = 0.985
const DOUBLES_EVERY = 7.5
/** Of a new one: what a blocked junction makes slow. */
const NEW_SLOW_TIME = 14

/**
 * What a transmitter that measures resistances would report of a simulated electrode: glass in MOhm at this
 * temperature, junction in kOhm; nothing of sensors that have neither.
 */
export function simulatedResistances(
  state: SensorTruth,
  temperature: number,
  cracked: boolean,
): { glass?: number; junction?: number } | null {
  if (state.kind !== 'ph' && state.kind !== 'orp' && state.kind !== 'ion') return null
  const junction = NEW_JUNCTION * Math.max(1, state.truth.slowTime / NEW_SLOW_TIME) ** 3
  if (state.kind !== 'ph') return { junction }
  const aged = 1 + PER_SLOPE_LOST * Math.max(0, SOUND_SLOPE - state.truth.slopeEfficiency)
  const glass = cracked ? CRACKED : (NEW_GLASS * aged) / 2 ** ((temperature - 25) / DOUBLES_EVERY)
  return { glass, junction }
}
