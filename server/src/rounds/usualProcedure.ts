import {
  type CheckFirst,
  type DeviceSetting,
  kindOf,
  type NextDate,
  type Procedure,
  type SensorKind,
  type SensorState,
} from '@frustum/core'

/** What is no calibration and so is not proposed because it was done last. */
const NO_HABIT = ['compare', 'electronics', 'retire']

/** Whether a sensor may well be right: nothing speaks against it, or only that something happened which asks for a look. */
export const mayBeRight = (driftState: SensorState, { limitedBy }: Pick<NextDate, 'limitedBy'>): boolean =>
  driftState === 'holding' || limitedBy === 'event'

/** Whether a visit begins with a check, adjusting only what needs it. */
export const beginsWithCheck = (rule: CheckFirst, sound: boolean): boolean =>
  rule === 'always' || (rule === 'when-sound' && sound)

/**
 * What is usually done next: a check where the position's rule says so, else a calibration the way it was done last.
 * @param possible procedures that the sensor and its device allow
 * @param past ids of the procedures of its visits, newest first
 */
export function usualProcedure(
  sensor: { position: { kind: SensorKind; checkFirst: CheckFirst }; device: DeviceSetting; sound: boolean },
  possible: readonly Procedure[],
  past: readonly string[],
): Procedure | undefined {
  const { kind, checkFirst } = sensor.position
  const check = possible.find((p) => p.id === kindOf(kind).quickCheck)
  if (check && (beginsWithCheck(checkFirst, sensor.sound) || sensor.device.factoryCell === true)) return check
  const calibrations = possible.filter((p) => !p.baseline && p !== check && !NO_HABIT.includes(p.id))
  const habit = past.map((id) => calibrations.find((p) => p.id === id)).find((p) => p !== undefined)
  return habit ?? calibrations[0] ?? check ?? possible[0]
}
