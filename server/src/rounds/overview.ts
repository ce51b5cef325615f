import type { FrustumView, RoundsRow } from '@frustum/contract'
import { DAY_MS, type DriftObservation, forecastDrift, type IntervalPolicy, nextDate, sensorState } from '@frustum/core'
import { isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { driftHistory, type Installed, installedSensors, lastChanges } from '../sensors.ts'

/** A sensor nobody has visited yet: its cone starts at its installation with the usual figures. */
const unvisited = (installed: Installed): DriftObservation[] => [
  {
    at: installed.installation.installedAt.getTime(),
    asFound: null,
    asLeft: 0,
    uncertainty: installed.position.tolerance / 2,
    adjusted: true,
  },
]

const SHOWN_VISITS = 3

function figureOf(installed: Installed, history: DriftObservation[], changedAt: number | undefined): FrustumView {
  const observations = history.length > 0 ? history : unvisited(installed)
  const { tolerance, reliability, floorDays, ceilingDays } = installed.position
  const policy: IntervalPolicy = { tolerance, reliability, floorDays, ceilingDays }
  const forecast = forecastDrift(observations, changedAt)
  // A sensor that is left alone for years would squeeze its cone flat: the newest visits are enough to see where it is.
  const lastAdjusted = observations.findLastIndex((o) => o.adjusted)
  const start = Math.max(0, lastAdjusted, observations.length - SHOWN_VISITS)
  return {
    forecast,
    policy,
    next: nextDate(forecast, policy),
    startsAt: (observations[start] as DriftObservation).at,
    dots: observations.slice(start).map((o) => ({ at: o.at, error: o.asLeft, uncertainty: o.uncertainty })),
  }
}

/** All sensors, on top the one that leaves tolerance, or comes to its house rule's date, first. */
export async function overview(db: Database, live: LiveValues, now: number): Promise<RoundsRow[]> {
  const installed = await installedSensors(db)
  const ids = installed.map((i) => i.installation.id)
  const [histories, changes] = [await driftHistory(db, ids), await lastChanges(db, ids)]
  const open = await db.select().from(visits).where(isNull(visits.closedAt))
  const rows = installed.map((i) => {
    const visit = open.find((v) => v.installationId === i.installation.id)
    const { id } = i.installation
    return rowOf(i, histories.get(id) ?? [], changes.get(id), visit, live, now)
  })
  const key = (row: RoundsRow) => Math.min(row.leavesAt, row.figure.next.at)
  return rows.sort((a, b) => key(a) - key(b))
}

export function rowOf(
  installed: Installed,
  history: DriftObservation[],
  changedAt: number | undefined,
  visit: typeof visits.$inferSelect | undefined,
  live: LiveValues,
  now: number,
): RoundsRow {
  const { position, place, device } = installed
  const figure = figureOf(installed, history, changedAt)
  const driftState = sensorState(figure.forecast, figure.policy, figure.next, now)
  const value = live.current(position.code)
  const blind = value.blindSince !== null && driftState !== 'out' && driftState !== 'overdue'
  return {
    position: position.code,
    place: place.name,
    spot: position.spot,
    state: visit ? 'resting' : blind ? 'blind' : driftState,
    driftState,
    reason: figure.next.reason,
    figure,
    leavesAt: figure.forecast.from + figure.next.horizonDays * DAY_MS,
    linked: device.link !== null,
    openVisit: visit
      ? { id: visit.id, operator: visit.holderName ?? visit.operator, since: visit.startedAt.getTime() }
      : null,
    live: value,
  }
}
