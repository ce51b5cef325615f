import type { DriftObservation } from './observation.ts'

/** Numbers of a device that changed by themselves, or were given back, between visits. */
export interface NumbersChange {
  /** Epoch ms when it was noticed. */
  at: number
  /** By how much the displayed error moved with them at the process value, in the unit of errors. */
  shift: number
}

/**
 * The visits as the forecast needs them where a device changed its numbers between two of them: what the numbers did is
 * known and is no drift, so the visit before is told of it. A change before the first visit is left
 * out: that visit measures it.
 * @param observations oldest first
 */
export function withNumbersChanged(
  observations: readonly DriftObservation[],
  changes: readonly NumbersChange[],
): DriftObservation[] {
  return observations.map((visit, i) => {
    const until = observations[i + 1]?.at ?? Number.POSITIVE_INFINITY
    const shift = changes.filter((c) => c.at > visit.at && c.at <= until).reduce((sum, c) => sum + c.shift, 0)
    return shift === 0 ? visit : { ...visit, shift }
  })
}
