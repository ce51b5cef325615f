import {
  type CalibrationParameters,
  codeKey,
  type DriftObservation,
  isWhole,
  modelOf,
  type SensorKind,
  type SettlingSignature,
  USUAL_PRACTICES,
  type WorkingPractices,
} from '@frustum/core'
import { and, asc, desc, eq, inArray, isNotNull, isNull, lt, lte, ne, notInArray, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { derived } from './database/derived.ts'
import type { Database, Transaction } from './database/open.ts'
import {
  calibrations,
  deviceCalibrations,
  devices,
  driftObservations,
  installations,
  places,
  positionCodes,
  positions,
  schoolChoices,
  sensors,
  visitEntries,
  visits,
} from './database/schema.ts'
import { notFound } from './problem.ts'

/** A sensor where it is installed now, with all that stands around it. */
export type Installed = Awaited<ReturnType<typeof installedSensors>>[number]

const installedQuery = (db: Database | Transaction) =>
  db
    .select({ installation: installations, position: positions, place: places, device: devices, sensor: sensors })
    .from(installations)
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .innerJoin(places, eq(positions.placeId, places.id))
    .innerJoin(devices, eq(installations.deviceId, devices.id))
    .innerJoin(sensors, eq(installations.sensorId, sensors.id))

/** All that are installed now, by the code of their position. */
export const installedSensors = (db: Database) =>
  derived(db, 'installed sensors', [db.$client.writes], () =>
    installedQuery(db).where(isNull(installations.removedAt)).orderBy(asc(positions.code)).execute(),
  )

/** All that are or were installed anywhere. */
export const allInstallations = (db: Database | Transaction) =>
  installedQuery(db).orderBy(asc(installations.installedAt))

/**
 * The code that a position has now, by that or any it had before, whatever their case; one that nobody knows as it is.
 */
export async function currentCode(db: Database | Transaction, code: string): Promise<string> {
  const same = (column: typeof positions.code | typeof positionCodes.code) => sql`lower(${column}) = ${codeKey(code)}`
  const [now] = await db.select({ code: positions.code }).from(positions).where(same(positions.code)).limit(1)
  if (now) return now.code
  const [before] = await db
    .select({ code: positions.code })
    .from(positionCodes)
    .innerJoin(positions, eq(positionCodes.positionId, positions.id))
    .where(same(positionCodes.code))
    .orderBy(desc(positionCodes.id))
    .limit(1)
  return before?.code ?? code
}

/** @throws Problem 404 */
export async function installedAt(db: Database, code: string): Promise<Installed> {
  const [found] = await installedQuery(db).where(and(isNull(installations.removedAt), eq(positions.code, code)))
  if (!found) throw notFound('sensor')
  return found
}

export async function installedById(db: Database | Transaction, installationId: number): Promise<Installed> {
  const [found] = await installedQuery(db).where(eq(installations.id, installationId))
  if (!found) throw notFound('sensor')
  return found
}

/**
 * The calibrations that devices computed with at an instant, as far as anybody knows, by installation: the one that a
 * device was given last at its position, be it for the sensor before, or what it was found to hold instead since. A
 * parameter that nobody knows is missing.
 */
export async function calibrationsInForce(
  db: Database | Transaction,
  ids: readonly number[],
  at: Date,
): Promise<Map<number, CalibrationParameters>> {
  if (ids.length === 0) return new Map()
  const here = alias(installations, 'here')
  const sameDevice = and(eq(installations.positionId, here.positionId), eq(installations.deviceId, here.deviceId))
  const given = await db
    .selectDistinctOn([here.id], { id: here.id, at: calibrations.at, held: calibrations.characteristic })
    .from(here)
    .innerJoin(installations, sameDevice)
    .innerJoin(calibrations, eq(calibrations.installationId, installations.id))
    .where(and(inArray(here.id, [...ids]), eq(calibrations.adopted, true), lte(calibrations.at, at)))
    .orderBy(here.id, desc(calibrations.at))
  const seen = await db
    .selectDistinctOn([here.id], { id: here.id, at: deviceCalibrations.at, held: deviceCalibrations.held })
    .from(here)
    .innerJoin(installations, sameDevice)
    .innerJoin(deviceCalibrations, eq(deviceCalibrations.installationId, installations.id))
    .where(and(inArray(here.id, [...ids]), lte(deviceCalibrations.at, at)))
    .orderBy(here.id, desc(deviceCalibrations.at))
  const byId = <T extends { id: number }>(rows: T[]) => new Map(rows.map((r) => [r.id, r]))
  const [lastGiven, lastSeen] = [byId(given), byId(seen)]
  return new Map(
    ids.map((id) => {
      const [last, found] = [lastGiven.get(id), lastSeen.get(id)]
      return [id, (found && (!last || found.at > last.at) ? found.held : last?.held) ?? {}]
    }),
  )
}

/** As `calibrationsInForce`, of one. */
export async function calibrationInForce(
  db: Database | Transaction,
  id: number,
  at: Date,
): Promise<CalibrationParameters> {
  return (await calibrationsInForce(db, [id], at)).get(id) ?? {}
}

/** What the sensor was last found to be before an instant, whether or not the device took it over. */
export async function lastFound(
  db: Database | Transaction,
  { id, kind }: { id: number; kind: SensorKind },
  before: Date,
) {
  const found = await db
    .select()
    .from(calibrations)
    .where(and(eq(calibrations.installationId, id), lte(calibrations.at, before)))
    .orderBy(desc(calibrations.at))
  const last = found.find((c) => isWhole(modelOf(kind), c.characteristic))
  return last ? { characteristic: last.characteristic, at: last.at.getTime() } : null
}

/** Drift observations by installation, oldest first. */
export async function driftHistory(
  db: Database | Transaction,
  ids: number[],
): Promise<Map<number, DriftObservation[]>> {
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

/** How this sensor settled lately, oldest first: the prior of the judge of stability, and the seconds it took. */
export async function pastSettling(
  db: Database | Transaction,
  installationId: number,
  before: Date,
): Promise<{ signatures: SettlingSignature[]; seconds: number[] }> {
  const recent = db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.installationId, installationId), lt(visits.startedAt, before)))
    .orderBy(desc(visits.startedAt))
    .limit(5)
  // Only what is needed of each entry: its trace is by far the longest part of it.
  const rows = await db
    .select({
      seconds: sql<number>`coalesce(${visitEntries.entry} #> '{reading,stability,knownAfter}', ${visitEntries.entry} #> '{reading,stability,seconds}')::float8`,
      signature: sql<SettlingSignature | null>`${visitEntries.entry} #> '{reading,signature}'`,
    })
    .from(visitEntries)
    .where(
      and(
        inArray(visitEntries.visitId, recent),
        sql`${visitEntries.entry} #> '{reading,standard}' is not null`,
        sql`coalesce(${visitEntries.entry} #>> '{reading,earlyReason}', '') = ''`,
        // Seconds of numbers typed by hand are those of a person.
        sql`coalesce(${visitEntries.entry} #>> '{reading,source}', 'line') = 'line'`,
      ),
    )
    .orderBy(asc(visitEntries.at), asc(visitEntries.id))
  return {
    signatures: rows.flatMap(({ signature }) => (signature ? [signature] : [])),
    seconds: rows.map((r) => r.seconds),
  }
}

/** Where each installed sensor was before, oldest first; only sensors that were moved are in it. By installation of now. */
export async function earlierInstallations(
  db: Database,
  installed: readonly Installed[],
): Promise<Map<number, (typeof installations.$inferSelect & { code: string })[]>> {
  const now = new Map(installed.map((i) => [i.sensor.id, i.installation.id]))
  const rows = await db
    .select({ installation: installations, code: positions.code })
    .from(installations)
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .where(isNotNull(installations.removedAt))
    .orderBy(asc(installations.installedAt))
  const found = new Map<number, (typeof installations.$inferSelect & { code: string })[]>()
  for (const { installation, code } of rows) {
    const current = now.get(installation.sensorId)
    if (current === undefined) continue
    found.set(current, [...(found.get(current) ?? []), { ...installation, code }])
  }
  return found
}

/** The sensor of a serial number and kind, and where it is, or was last; a spare was nowhere yet. */
export async function sensorBySerial(db: Database | Transaction, serialNumber: string, kind: SensorKind) {
  if (serialNumber === '') return null
  const rows = await db
    .select({ sensor: sensors, installation: installations, code: positions.code })
    .from(sensors)
    .leftJoin(installations, eq(installations.sensorId, sensors.id))
    .leftJoin(positions, eq(installations.positionId, positions.id))
    .where(and(eq(sensors.serialNumber, serialNumber), eq(sensors.kind, kind)))
    .orderBy(desc(installations.installedAt))
  return rows.find((r) => r.installation?.removedAt === null) ?? rows.find((r) => r.installation) ?? rows[0] ?? null
}

/** Serial numbers of the spares of a kind: in store, and never in use or in use no longer. */
export async function spareSerials(db: Database, kind: SensorKind): Promise<string[]> {
  const rows = await db
    .selectDistinct({ serial: sensors.serialNumber })
    .from(sensors)
    .where(
      and(
        eq(sensors.kind, kind),
        ne(sensors.serialNumber, ''),
        isNull(sensors.archivedAt),
        notInArray(
          sensors.id,
          db.select({ id: installations.sensorId }).from(installations).where(isNull(installations.removedAt)),
        ),
      ),
    )
    .orderBy(asc(sensors.serialNumber))
  return rows.map((r) => r.serial)
}

/** Positions without a sensor, with when the last one was taken away; those that were archived are not in it. */
export async function emptyPositions(db: Database) {
  const rows = await db
    .select({
      position: positions,
      place: places,
      removedAt: installations.removedAt,
      device: devices,
      installation: installations.id,
    })
    .from(positions)
    .innerJoin(places, eq(positions.placeId, places.id))
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .leftJoin(installations, eq(installations.positionId, positions.id))
    .where(isNull(positions.archivedAt))
    .orderBy(asc(positions.code), desc(installations.installedAt))
  const newest = new Map<number, (typeof rows)[number]>()
  const occupied = new Set(
    rows.filter((r) => r.installation !== null && r.removedAt === null).map((r) => r.position.id),
  )
  for (const row of rows) if (!newest.has(row.position.id)) newest.set(row.position.id, row)
  return [...newest.values()].filter((r) => !occupied.has(r.position.id))
}

/** The site's ways of working at an instant: a visit keeps those with which it began. */
export async function practicesAt(db: Database | Transaction, at: Date): Promise<WorkingPractices> {
  const [last] = await db
    .select()
    .from(schoolChoices)
    .where(lte(schoolChoices.at, at))
    .orderBy(desc(schoolChoices.id))
    .limit(1)
  return { ...USUAL_PRACTICES, ...last?.practices }
}
