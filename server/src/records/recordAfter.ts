import { type ClosedRecord, closedRecord, DAY_MS, days, errorQuantity, say } from '@frustum/core'

/** What the record of a visit says, after what the visit before left. */
export function recordAfter(
  before: { at: number; asLeft: number } | undefined,
  visit: Parameters<typeof closedRecord>[0] & { snapshot: { settings: { opening: object } } },
): ClosedRecord {
  return closedRecord(visit, {
    replaces: 'cause' in visit.snapshot.settings.opening,
    drift(observed, state) {
      if (observed.asFound === null || !before) return null
      const elapsed = days(Math.round((visit.startedAt - before.at) / DAY_MS))
      const drift = observed.asFound - (observed.fouling ?? 0) - before.asLeft
      const fouling = observed.fouling === null ? '' : say`, fouling ${errorQuantity(state, observed.fouling)}`
      return say`In ${elapsed} since the visit before: drift ${errorQuantity(state, drift)}${fouling}.`
    },
  })
}
