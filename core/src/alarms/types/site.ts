import { quantity, say, timeSpan } from '../../quantities/sentence.ts'
import type { AlarmType } from '../alarmType.ts'

/** Alarms of the keeping of the site. They are raised by what looks at it. */

const MINUTE_MS = 60_000

export const NO_ROOM: AlarmType = {
  kind: 'no-room',
  name: 'Disk nearly full',
  severity: 'alarm',
  sentence: ({ value }) => say`Disk nearly full: ${[quantity(value ?? 0, 'MB', 0)]} left`,
}

export const NOT_DELIVERED: AlarmType = {
  kind: 'not-told',
  name: 'Messages not delivered',
  severity: 'warning',
  sentence: ({ subject }) => say`Messages to ${subject ?? ''} aren't being delivered`,
}

export const NOT_WATCHED: AlarmType = {
  kind: 'not-watched',
  name: 'Frustum was off',
  severity: 'notice',
  isPast: true,
  sentence: ({ value }) => say`Frustum was off for ${[timeSpan((value ?? 0) * MINUTE_MS)]}, so nothing was monitored`,
}

export const CLOCK_CHANGED: AlarmType = {
  kind: 'clock-set',
  name: 'Clock changed',
  severity: 'notice',
  isPast: true,
  sentence: ({ value }) =>
    (value ?? 0) < 0
      ? say`The server's clock was set back by ${[timeSpan(-1000 * (value ?? 0))]}`
      : say`The server's clock was set forward by ${[timeSpan(1000 * (value ?? 0))]}, or the server slept`,
}

export const HOLD_FORGOTTEN: AlarmType = {
  kind: 'hold-forgotten',
  name: 'Outputs on hold too long',
  severity: 'warning',
  sentence: () => 'outputs have been on hold for over two hours, so nothing is being dosed',
}

export const CALIBRATION_CHANGED: AlarmType = {
  kind: 'numbers-changed',
  name: 'Calibration changed in the device',
  severity: 'notice',
  sentence: ({ subject }) =>
    subject === null ? 'calibration changed in the device' : say`calibration changed in the device: now ${subject}`,
}
