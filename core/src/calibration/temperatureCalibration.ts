import { requireWithin } from '../quantities/outOfRange.ts'
import { degreesApart, say } from '../quantities/sentence.ts'
import { type Budget, input, propagate } from '../uncertainty/propagation.ts'
import type { Finding } from './finding.ts'

export interface Thermometer {
  reading: number
  /** Half-width of its 95 % interval, degC. */
  uncertainty: number
}

export interface TemperatureOffset {
  /** To be added to what the sensor shows, degC. */
  offset: Budget
  findings: Finding[]
}

/** Larger than this the offset is no drift but a wrong sensor or unit, degC (common practice, no source). */
const LARGEST_OFFSET = 3

/**
 * Temperature offset against the mean of two independent thermometers in the same water.
 * @param shown by the sensor, degC, -10 to 110
 * @throws OutOfRange
 */
export function calibrateTemperature(shown: Thermometer, first: Thermometer, second: Thermometer): TemperatureOffset {
  for (const t of [shown, first, second]) requireWithin('Temperature', t.reading, -10, 110, '°C')
  const offset = propagate(
    ([s, a, b]) => ((a as number) + (b as number)) / 2 - (s as number),
    [
      input('Sensor', shown.reading, shown.uncertainty),
      input('First thermometer', first.reading, first.uncertainty),
      input('Second thermometer', second.reading, second.uncertainty),
    ],
  )
  const apart = Math.abs(first.reading - second.reading)
  const allowed = Math.hypot(first.uncertainty, second.uncertainty)
  const findings: Finding[] = []
  if (apart > allowed) {
    findings.push({
      code: 'thermometers-disagree',
      severity: 'stop',
      sentence: say`The two thermometers are ${degreesApart(apart, 2)} apart; they should agree within ${degreesApart(allowed, 2)}.`,
      advice: 'Stir, wait, and read both again. If it stays, take a third.',
      numbers: { apart, allowed },
    })
  }
  if (Math.abs(offset.value) > LARGEST_OFFSET) {
    findings.push({
      code: 'correction-implausible',
      severity: 'warn',
      sentence: say`The sensor is ${degreesApart(Math.abs(offset.value))} off.`,
      advice: 'That is a wrong sensor type, a wrong unit or a loose wire rather than drift.',
      numbers: { offset: offset.value, largest: LARGEST_OFFSET },
    })
  }
  return { offset, findings }
}
