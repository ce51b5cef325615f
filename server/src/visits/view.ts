import type { VisitView } from '@frustum/contract'
import { forecastDrift, millivoltsToPh, nextDate } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { driftHistory, type Installed, lastChanges } from '../sensors.ts'
import type { VisitProgress } from './fold.ts'
import { lotFor } from './lots.ts'
import type { OpenedVisit } from './records.ts'
import { resultOf, verdictOf } from './result.ts'

/** A visit as the browser sees it. */
export async function visitView(db: Database, opened: OpenedVisit): Promise<VisitView> {
  const { row, installed, progress, inForce, previous } = opened
  const { position, place, device } = installed
  const now = Date.now()
  const standards = [row.firstStandard, row.secondStandard]
  const lots: VisitView['lots'] = {}
  for (const code of standards) {
    const lot = await lotFor(db, code, now)
    lots[code] = lot && {
      lot: lot.row.lot,
      expired: lot.expired,
      openTooLong: lot.openTooLong,
      daysOver: lot.daysOver,
    }
  }
  const result = resultOf(progress, installed, inForce, previous)
  return {
    id: row.id,
    position: position.code,
    place: place.name,
    spot: position.spot,
    kind: row.kind,
    wentOn: progress.course.wentOn,
    first: row.firstStandard,
    second: row.secondStandard,
    operator: row.operator,
    startedAt: row.startedAt.getTime(),
    closedAt: row.closedAt?.getTime() ?? null,
    outcome: row.outcome,
    holder:
      row.holderClient && row.holderName && row.heldSince && !row.closedAt
        ? { clientId: row.holderClient, name: row.holderName, since: row.heldSince.getTime() }
        : null,
    steps: progress.steps,
    current: row.closedAt ? null : progress.current,
    cautions: position.cautions,
    processValue: position.processValue,
    tolerance: position.tolerance,
    linked: device.link !== null,
    standIn: device.standIn,
    writable: device.writable,
    deviceShows: device.shows,
    inForce,
    lots,
    result,
    verdict: row.kind === 'check' ? verdictOf(progress, position.tolerance, inForce) : null,
    decision: progress.decision,
    applied: progress.applied,
    asLeftError: asLeft(progress, result),
    next: row.closedAt ? await nextDateOf(db, installed) : null,
  }
}

async function nextDateOf(db: Database, { installation, position }: Installed) {
  const history = (await driftHistory(db, [installation.id])).get(installation.id) ?? []
  const changedAt = (await lastChanges(db, [installation.id])).get(installation.id)
  return history.length > 0 ? nextDate(forecastDrift(history, changedAt), position) : null
}

/** The error left behind at the process value: what the verification showed, or what was left alone. */
export function asLeft(progress: VisitProgress, result: ReturnType<typeof resultOf>): number | null {
  if (progress.applied) {
    const check = progress.readings.verify
    if (!check?.standard) return 0
    return millivoltsToPh(check.millivolts, check.temperature, progress.applied) - check.standard.value
  }
  return result?.errorNow ?? null
}
