import type { Finding } from '../../calibration/finding.ts'
import type { LiveReading, VisitState } from '../../procedures/procedure.ts'
import { seesSignal } from '../../procedures/setup.ts'
import { nullIfOutOfRange } from '../../quantities/outOfRange.ts'
import { findWrongCompensation } from './wrongCompensation.ts'

/**
 * A display that does not follow the setting as noted. A linked device says itself what it measures; of another only
 * the standard is known.
 */
export function settingFinding(
  e: VisitState,
  standard: number,
  reading: Pick<LiveReading, 'shown' | 'signal' | 'temperature'>,
): Finding | null {
  const { setup, model } = e
  const { shown } = reading
  if (shown === null) return null
  const activeCalibration = e.applied?.characteristic ?? setup.activeCalibration
  const measured =
    setup.linked && seesSignal(setup)
      ? nullIfOutOfRange(() => model.valueOf(reading.signal, reading.temperature, activeCalibration, setup.device))
      : null
  const found = nullIfOutOfRange(() =>
    findWrongCompensation(shown, measured ?? standard, reading.temperature, setup.device),
  )
  if (!found || measured !== null) return found
  // Without its signal a low cell and a wrong setting look alike: said, but not held up.
  return {
    ...found,
    severity: 'warn',
    advice:
      'Look at its setting first. If that is as noted, the cell reads low or high: clean it and take the point again.',
  }
}
