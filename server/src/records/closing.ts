import type { ClosedRecord } from '@frustum/core'
import type { Database, Transaction } from '../database/open.ts'
import { driftHistory } from '../sensors.ts'
import type { OpenedVisit } from './openVisit.ts'
import { recordAfter } from './recordAfter.ts'

/** What the record of a visit says, as far as it has come; once it is closed this is stored and never made again. */
export async function recordFrom(db: Database | Transaction, opened: OpenedVisit): Promise<ClosedRecord> {
  const { installationId, startedAt } = opened.row
  const history = (await driftHistory(db, [installationId])).get(installationId) ?? []
  return recordAfter(
    history.findLast((h) => h.at < startedAt.getTime()),
    opened,
  )
}
