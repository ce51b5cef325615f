import type { ProbeView } from '@frustum/contract'
import { and, asc, desc, eq, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { calibrations, driftObservations, events, visits } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { rowOf } from '../rounds/overview.ts'
import { calibrationInForce, driftHistory, installedAt, lastChanges } from '../sensors.ts'

/** One sensor with all that is known of it. */
export async function probe(db: Database, live: LiveValues, code: string, now: number): Promise<ProbeView> {
  const installed = await installedAt(db, code)
  const { installation, sensor, device, position } = installed
  const history = (await driftHistory(db, [installation.id])).get(installation.id) ?? []
  const changes = await lastChanges(db, [installation.id])
  const [open] = await db
    .select()
    .from(visits)
    .where(and(eq(visits.installationId, installation.id), isNull(visits.closedAt)))
  const found = await db
    .select()
    .from(calibrations)
    .where(eq(calibrations.installationId, installation.id))
    .orderBy(asc(calibrations.at))
  const past = await db
    .select({ visit: visits, drift: driftObservations })
    .from(driftObservations)
    .innerJoin(visits, eq(driftObservations.visitId, visits.id))
    .where(eq(driftObservations.installationId, installation.id))
    .orderBy(desc(driftObservations.at))
  const happened = await db
    .select()
    .from(events)
    .where(eq(events.installationId, installation.id))
    .orderBy(asc(events.at))
  return {
    ...rowOf(installed, history, changes.get(installation.id), open, live, now),
    serialNumber: sensor.serialNumber,
    model: sensor.model,
    installedAt: installation.installedAt.getTime(),
    deviceShows: device.shows,
    cautions: position.cautions,
    processValue: position.processValue,
    calibrations: found.map((c) => ({
      at: c.at.getTime(),
      zero: c.zero,
      zeroUncertainty: c.zeroUncertainty,
      slopeEfficiency: c.slopeEfficiency,
      slopeEfficiencyUncertainty: c.slopeEfficiencyUncertainty,
      adopted: c.adopted,
    })),
    visits: past.map(({ visit, drift }) => ({
      id: visit.id,
      at: drift.at.getTime(),
      kind: visit.kind,
      operator: visit.operator,
      asFound: drift.asFound,
      asLeft: drift.asLeft,
      uncertainty: drift.uncertainty,
      fouling: drift.fouling,
      adjusted: drift.adjusted,
    })),
    events: happened.map((e) => ({ at: e.at.getTime(), kind: e.kind, note: e.note })),
    inForce: await calibrationInForce(db, installation.id),
  }
}
