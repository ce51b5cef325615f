import type { DriftObservation, PhCharacteristic, SettlingSignature } from '@frustum/core'
import { IDEAL_CHARACTERISTIC } from '@frustum/core'
import { and, asc, desc, eq, inArray, isNull, lte } from 'drizzle-orm'
import type { Database, Transaction } from './database/open.ts'
import {
  calibrations,
  devices,
  driftObservations,
  events,
  installations,
  places,
  positions,
  sensors,
  visitEntries,
  visits,
} from './database/schema.ts'
import { notFound } from './problem.ts'

/** A sensor where it is installed now, with all that stands around it. */
export type Installed = Awaited<ReturnType<typeof installedSensors>>[number]

const installedQuery = (db: Database) =>
  db
    .select({ installation: installations, position: positions, place: places, device: devices, sensor: sensors })
    .from(installations)
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .innerJoin(places, eq(positions.placeId, places.id))
    .innerJoin(devices, eq(installations.deviceId, devices.id))
    .innerJoin(sensors, eq(installations.sensorId, sensors.id))

export function installedSensors(db: Database) {
  return installedQuery(db).where(isNull(installations.removedAt)).orderBy(asc(positions.code))
}

/** @throws Problem 404 */
export async function installedAt(db: Database, code: string): Promise<Installed> {
  const [found] = await installedQuery(db).where(and(isNull(installations.removedAt), eq(positions.code, code)))
  if (!found) throw notFound('sensor')
  return found
}

export async function installedById(db: Database, installationId: number): Promise<Installed> {
  const [found] = await installedQuery(db).where(eq(installations.id, installationId))
  if (!found) throw notFound('sensor')
  return found
}

/** The calibration that the device reckoned with at an instant; that of an ideal electrode before the first one. */
export async function calibrationInForce(
  db: Database | Transaction,
  installationId: number,
  at = new Date(),
): Promise<PhCharacteristic> {
  const [last] = await db
    .select()
    .from(calibrations)
    .where(
      and(eq(calibrations.installationId, installationId), eq(calibrations.adopted, true), lte(calibrations.at, at)),
    )
    .orderBy(desc(calibrations.at))
    .limit(1)
  return last ? { zero: last.zero, slopeEfficiency: last.slopeEfficiency } : { ...IDEAL_CHARACTERISTIC }
}

/** What the electrode was last found to be before an instant, whether or not the device took it over. */
export async function lastFound(db: Database, installationId: number, before = new Date()) {
  const [last] = await db
    .select()
    .from(calibrations)
    .where(and(eq(calibrations.installationId, installationId), lte(calibrations.at, before)))
    .orderBy(desc(calibrations.at))
    .limit(1)
  return last ? { zero: last.zero, slopeEfficiency: last.slopeEfficiency, at: last.at.getTime() } : null
}

/** Drift observations by installation, oldest first. */
export async function driftHistory(db: Database, ids: number[]): Promise<Map<number, DriftObservation[]>> {
  const rows = ids.length
    ? await db
        .select()
        .from(driftObservations)
        .where(inArray(driftObservations.installationId, ids))
        .orderBy(asc(driftObservations.at))
    : []
  const byId = new Map<number, DriftObservation[]>(ids.map((id) => [id, []]))
  for (const row of rows) {
    byId.get(row.installationId)?.push({
      at: row.at.getTime(),
      asFound: row.asFound,
      asLeft: row.asLeft,
      uncertainty: row.uncertainty,
      adjusted: row.adjusted,
    })
  }
  return byId
}

/** When each electrode last became another one: an upset or a refill. Nothing for most. */
export async function lastChanges(db: Database, ids: number[]): Promise<Map<number, number>> {
  const rows = ids.length
    ? await db
        .select()
        .from(events)
        .where(and(inArray(events.installationId, ids), inArray(events.kind, ['upset', 'refilled'])))
        .orderBy(asc(events.at))
    : []
  return new Map(rows.map((row) => [row.installationId, row.at.getTime()]))
}

/** How this electrode settled lately, oldest first: the prior of the judge of stability. */
export async function pastSettling(db: Database, installationId: number): Promise<SettlingSignature[]> {
  const recent = await db
    .select({ id: visits.id })
    .from(visits)
    .where(eq(visits.installationId, installationId))
    .orderBy(desc(visits.startedAt))
    .limit(5)
  if (recent.length === 0) return []
  const rows = await db
    .select({ entry: visitEntries.entry })
    .from(visitEntries)
    .where(
      inArray(
        visitEntries.visitId,
        recent.map((r) => r.id),
      ),
    )
    .orderBy(asc(visitEntries.at), asc(visitEntries.id))
  return rows.flatMap(({ entry }) =>
    entry.type === 'captured' && entry.reading.signature ? [entry.reading.signature] : [],
  )
}
