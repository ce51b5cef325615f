import { modelOf, type ReadingState } from '@frustum/core'
import type { Installed } from '../sensors.ts'

/** Whether what it shows can be. */
export function rangeState(
  kind: Installed['position']['kind'],
  setting: Installed['device']['setting'],
  shown: number | null,
): ReadingState {
  if (shown === null) return 'good'
  const { low, high } = modelOf(kind).shownRange(setting)
  return shown < low || shown > high ? 'out-of-range' : 'good'
}
