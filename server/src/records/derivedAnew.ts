import { foundAt, heldFor, modelOf, observationOf, resultFindings, type VisitEntry, workedOutAnew } from '@frustum/core'
import { and, asc, eq, gte, isNotNull } from 'drizzle-orm'
import type { Transaction } from '../database/open.ts'
import { calibrations, driftObservations, visits } from '../database/schema.ts'
import { calibrationInForce, lastFound } from '../sensors.ts'
import { openVisit } from './openVisit.ts'
import { orIfUnreadable } from './readable.ts'

/**
 * Works out anew what follows from visits of a sensor that were made while the calibration in its device was unknown, now
 * that more is known of before them. The records stay as they are.
 * @param from from when on more is known
 */
export async function deriveAnew(tx: Transaction, installationId: number, from: Date): Promise<void> {
  const later = await tx
    .select({ id: visits.id, startedAt: visits.startedAt, snapshot: visits.snapshot })
    .from(visits)
    .where(and(eq(visits.installationId, installationId), gte(visits.startedAt, from), isNotNull(visits.closedAt)))
    .orderBy(asc(visits.startedAt))
  // Oldest first: what one of them found is what the next one's device holds.
  for (const { id, startedAt, snapshot } of later) {
    if (!snapshot?.setup.unknownParameters) continue
    const opened = await orIfUnreadable(openVisit(tx, id), null)
    if (!opened) continue
    const { procedure, setup: believed } = opened
    const { unknownParameters: _, ...standing } = believed
    const before = new Date(startedAt.getTime() - 1)
    const setup = {
      ...standing,
      ...heldFor(modelOf(standing.kind), await calibrationInForce(tx, installationId, before), standing),
      previous: await lastFound(tx, { id: installationId, kind: standing.kind }, before),
    }
    const anew = workedOutAnew(procedure, setup, opened, believed.activeCalibration)
    const { evidence } = anew.progress
    // While any part is unknown, signals derived from a display are of no use to the diagnosis.
    const knownReadings = setup.unknownParameters ? null : capturedIn(anew.lines)
    await tx
      .update(visits)
      .set({ knownReadings, findings: resultFindings(procedure, evidence) })
      .where(eq(visits.id, id))
    const found = foundAt(procedure, evidence)
    if (found) {
      const { characteristic, uncertainty, relative } = found
      await tx.update(calibrations).set({ characteristic, uncertainty, relative }).where(eq(calibrations.visitId, id))
    }
    const observation = observationOf(procedure, evidence)
    const [known] = await tx.select().from(driftObservations).where(eq(driftObservations.visitId, id))
    await tx.delete(driftObservations).where(eq(driftObservations.visitId, id))
    if (observation) {
      const at = known?.at ?? opened.row.closedAt ?? startedAt
      await tx.insert(driftObservations).values({ installationId, visitId: id, at, ...observation })
    }
  }
}

/** The readings of a visit, without their traces. */
const capturedIn = (lines: readonly { entry: VisitEntry }[]) =>
  lines.flatMap(({ entry }) =>
    entry.type === 'captured' ? [{ step: entry.step, reading: { ...entry.reading, trace: [] } }] : [],
  )
