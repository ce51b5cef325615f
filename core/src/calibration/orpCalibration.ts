import type { ReferenceCode } from '../electrode/referenceElectrodes.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { type OrpStandardCode, orpStandard, orpStandardReading } from '../standards/orpStandards.ts'
import { type Budget, type InputQuantity, input, propagateJointly } from '../uncertainty/propagation.ts'

/** One ORP standard as read. */
export interface OrpPoint {
  standard: OrpStandardCode
  /** Settled reading, mV. */
  shown: number
  /** Half-width of its 95 % interval, mV. */
  uncertainty: number
  /** degC, within the standard's range. */
  temperature: number
}

/** true = gain (shown - zero) + offset; each school leaves some of them alone. */
export interface OrpCalibration {
  school: 'offset' | 'zero-plug' | 'two-point'
  gain: Budget
  /** mV. */
  offset: Budget
  /** Right values at the points, mV, in their order. */
  expected: number[]
}

function expectedOf(point: OrpPoint, reference: ReferenceCode): number {
  requireWithin('ORP', point.shown, -2000, 2000, 'mV')
  return orpStandardReading(point.standard, reference, point.temperature)
}

const inputsOf = (point: OrpPoint, expected: number, name: string): InputQuantity[] => [
  input(`${name}: reading`, point.shown, point.uncertainty),
  input(`${name}: standard value`, expected, orpStandard(point.standard).uncertainty),
]

function solve(
  school: OrpCalibration['school'],
  inputs: InputQuantity[],
  expected: number[],
  model: (v: readonly number[]) => [gain: number, offset: number],
): OrpCalibration {
  const [gain, offset] = propagateJointly(model, inputs).outputs as [Budget, Budget]
  return { school, gain, offset, expected }
}

/** One standard: only the offset is set. mV as right = shown + offset. @throws OutOfRange */
export function calibrateOrpOffset(point: OrpPoint, reference: ReferenceCode): OrpCalibration {
  const expected = expectedOf(point, reference)
  return solve('offset', inputsOf(point, expected, 'Standard'), [expected], ([s, e]) => [
    1,
    (e as number) - (s as number),
  ])
}

/**
 * Electrical zero with a shorting plug in place of the sensor, and one standard: zero from the plug, gain from the standard.
 * @param plug reading with the plug, mV, and the half-width of its 95 % interval
 * @throws OutOfRange, also when the standard reads too near to the plug to give a gain
 */
export function calibrateOrpZeroPlug(
  plug: { shown: number; uncertainty: number },
  point: OrpPoint,
  reference: ReferenceCode,
): OrpCalibration {
  const expected = expectedOf(point, reference)
  requireWithin('Reading with the shorting plug', plug.shown, -200, 200, 'mV')
  requireWithin('Distance of the standard from the plug', Math.abs(point.shown - plug.shown), 50, 3000, 'mV')
  return solve(
    'zero-plug',
    [...inputsOf(point, expected, 'Standard'), input('Plug', plug.shown, plug.uncertainty)],
    [0, expected],
    ([s, e, z]) => {
      const gain = (e as number) / ((s as number) - (z as number))
      return [gain, -gain * (z as number)]
    },
  )
}

/** Two standards: right = gain shown + offset. @throws OutOfRange, also when the two read too near to each other */
export function calibrateOrpTwoPoint(first: OrpPoint, second: OrpPoint, reference: ReferenceCode): OrpCalibration {
  const expected = [expectedOf(first, reference), expectedOf(second, reference)] as const
  requireWithin('Distance of the two readings', Math.abs(second.shown - first.shown), 50, 3000, 'mV')
  return solve(
    'two-point',
    [...inputsOf(first, expected[0], 'First'), ...inputsOf(second, expected[1], 'Second')],
    [...expected],
    ([s1, e1, s2, e2]) => {
      const gain = ((e2 as number) - (e1 as number)) / ((s2 as number) - (s1 as number))
      return [gain, (e1 as number) - gain * (s1 as number)]
    },
  )
}

/** What a device with this calibration shows for what it showed before, mV. */
export function applyOrp(calibration: OrpCalibration, shown: number): number {
  return calibration.gain.value * requireWithin('ORP', shown, -2000, 2000, 'mV') + calibration.offset.value
}
