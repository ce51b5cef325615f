import {
  type CalibrationParameters,
  nullIfOutOfRange,
  observationOf,
  relativeOf,
  resultAt,
  resultFindings,
  tellableOf,
  type VisitEntry,
} from '@frustum/core'
import { eq } from 'drizzle-orm'
import { noteRetirement, type Proposed } from '../ageing/confirmedCauses.ts'
import type { Transaction } from '../database/open.ts'
import { calibrations, driftObservations, events, installations, visitEntries, visits } from '../database/schema.ts'
import { storedAssessment } from '../records/assessment.ts'
import { recordFrom } from '../records/closing.ts'
import { type OpenedVisit, withLines } from '../records/openVisit.ts'
import { drawFromLot } from '../shelf/draw.ts'
import type { Actor } from './actor.ts'

/** An action that waited longer than this for the network is recorded as of now, ms. */
const BELIEVED_FOR = 24 * 3_600_000

/** Writes one line of a visit's record, and all that follows from it. Returns the visit with that line. */
export async function appendEntry(
  tx: Transaction,
  opened: OpenedVisit,
  actor: Actor & { proposed?: Proposed },
  entry: VisitEntry,
  now: number,
): Promise<OpenedVisit> {
  const { madeAt, actionId, fingerprint, operator } = actor
  const at = new Date(madeAt !== undefined && madeAt < now && now - madeAt < BELIEVED_FOR ? madeAt : now)
  const judged = entry.type === 'decided' ? resultAt(opened.procedure, opened.progress, entry.step) : null
  await tx.insert(visitEntries).values({
    visitId: opened.row.id,
    seq: opened.revision + 1,
    at,
    operator,
    entry,
    actionId: actionId ?? null,
    fingerprint: actionId ? fingerprint : null,
    assessment: entry.type === 'decided' && judged ? storedAssessment(entry.step, judged, opened.snapshot.known) : null,
  })
  const after = withLines(opened, [...opened.lines, { at: at.getTime(), operator, entry }])
  const { row, installed, procedure, progress } = after
  if (entry.type === 'captured') {
    await drawFromLot(tx, entry.reading, { visitId: row.id, position: installed.position.code, operator, at })
  }
  await storeCalibration(tx, after, entry, at)
  const finished = progress.current === null && entry.type !== 'abandoned'
  const ended = finished || entry.type === 'abandoned'
  if (finished) await storeObservation(tx, after, at)
  const retired = finished && procedure.id === 'retire'
  if (retired) await retire(tx, after, { at, operator, proposed: actor.proposed ?? [] })
  // A form that may wait for days leaves the sensor to whoever comes next.
  if (!ended && !progress.current?.pending) return after
  const change = {
    ...(ended
      ? {
          closedAt: at,
          outcome: finished ? ('done' as const) : ('abandoned' as const),
          findings: resultFindings(procedure, progress.evidence),
          record: await recordFrom(tx, after),
        }
      : {}),
    holderClient: null,
    holderName: null,
    heldSince: null,
  }
  await tx.update(visits).set(change).where(eq(visits.id, row.id))
  return {
    ...after,
    row: { ...row, ...change },
    installed: retired ? { ...installed, installation: { ...installed.installation, removedAt: at } } : installed,
  }
}

/** What the sensor was found to be, once it was applied or decided to be left as it is. */
async function storeCalibration(tx: Transaction, opened: OpenedVisit, entry: VisitEntry, at: Date): Promise<void> {
  const left = entry.type === 'decided' && ['leave-alone', 'replace'].includes(entry.decision)
  if (entry.type !== 'applied' && !left) return
  const { procedure, progress, installed, row } = opened
  const found = nullIfOutOfRange(() => procedure.judge(progress.evidence, left ? entry.step : 'result'))?.found
  if (!found) return
  const { evidence } = progress
  const told = (c: CalibrationParameters) => tellableOf(evidence, c)
  const worked = entry.type === 'applied' ? entry.characteristic : found.characteristic
  const characteristic = entry.type === 'applied' && entry.readBack ? worked : told(worked)
  await tx.insert(calibrations).values({
    installationId: installed.installation.id,
    visitId: row.id,
    at,
    characteristic,
    uncertainty: told(found.uncertainty),
    relative: relativeOf(evidence, worked, characteristic),
    adopted: entry.type === 'applied',
    baseline: procedure.baseline ?? false,
  })
}

/** The error as found and as left, from which drift is computed. Nothing when the visit measured neither. */
async function storeObservation(tx: Transaction, opened: OpenedVisit, at: Date): Promise<void> {
  const observation = observationOf(opened.procedure, opened.progress.evidence)
  if (!observation) return
  await tx.insert(driftObservations).values({
    installationId: opened.installed.installation.id,
    visitId: opened.row.id,
    at,
    ...observation,
  })
}

async function retire(
  tx: Transaction,
  { installed, progress }: OpenedVisit,
  { at, operator, proposed }: { at: Date; operator: string; proposed: Proposed },
): Promise<void> {
  const { id } = installed.installation
  const { cause, note } = progress.evidence.forms.cause?.values ?? {}
  await tx
    .insert(events)
    .values({ installationId: id, at, kind: 'retired', note: [cause, note].filter(Boolean).join(': ') })
  await noteRetirement(tx, { installationId: id, at, operator, cause, proposed })
  await tx.update(installations).set({ removedAt: at }).where(eq(installations.id, id))
}
