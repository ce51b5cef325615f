import { type ClosedRecord, closedRecord, DAY_MS, days, errorQuantity, say } from '@frustum/core'
import type { Database, Transaction } from '../database/open.ts'
import { driftHistory } from '../sensors.ts'
import type { OpenedVisit } from './openVisit.ts'

/** What the record of a visit says, as far as it has come; once it is closed this is stored and never made again. */
export async function recordFrom(db: Database | Transaction, opened: OpenedVisit): Promise<ClosedRecord> {
  const { installationId, startedAt } = opened.row
  const history = (await driftHistory(db, [installationId])).get(installationId) ?? []
  return recordAfter(
    history.findLast((h) => h.at < startedAt.getTime()),
    opened,
  )
}

/** The same, after what the visit before left. */
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
