import type { ClosedRecord } from '@frustum/core'
import { and, asc, eq, inArray, isNotNull, sql } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import type { StoredSnapshot } from '../database/recordColumns.ts'
import * as table from '../database/schema.ts'
import { notFound } from '../problem.ts'
import { isWholeRecord } from '../records/takenIn.ts'

/** The records of a site as one JSON document; docs/formats.md describes it. */
export interface RecordsDocument {
  format: 'frustum-records'
  version: 2
  site: { name: string; timeZone: string }
  /** When a sensor was taken away from a position, where it was. */
  removals: { position: string; serialNumber: string; installedAt: string; removedAt: string }[]
  visits: VisitRecord[]
}

export interface VisitRecord {
  id: string
  procedure: string
  operator: string
  startedAt: string
  closedAt: string
  outcome: string
  findings: readonly string[] | null
  snapshot: StoredSnapshot
  /** Null where its lines cannot be read by the version that exported it. */
  record: ClosedRecord | null
  entries: unknown[]
  calibrations: unknown[]
  observations: unknown[]
  corrections: unknown[]
}

const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** A row without the keys that only this database knows. */
function without<T extends object>(row: T, ...keys: string[]): Record<string, unknown> {
  return Object.fromEntries(Object.entries(plain(row)).filter(([key]) => !keys.includes(key)))
}

/** Lines of records as the database has them: as they were written, not as this version reads them. */
export const linesAsWritten = {
  visitId: table.visitEntries.visitId,
  seq: table.visitEntries.seq,
  at: table.visitEntries.at,
  operator: table.visitEntries.operator,
  entry: sql<unknown>`${table.visitEntries.entry}`,
  actionId: table.visitEntries.actionId,
  assessment: table.visitEntries.assessment,
}

export const entryRecord = (row: { visitId: string }) => without(row, 'visitId')

/** All closed visits, or one. */
export async function exportRecords(db: Database, id: string | null): Promise<RecordsDocument> {
  const [site] = await db.select().from(table.sites)
  const rows = await db
    .select()
    .from(table.visits)
    .where(and(isWholeRecord, id ? eq(table.visits.id, id) : isNotNull(table.visits.closedAt)))
    .orderBy(asc(table.visits.startedAt), asc(table.visits.id))
  if (id && rows.length === 0) throw notFound('visit')
  const by = <T extends { visitId: string | null }>(list: T[]) => {
    const map = new Map<string, T[]>()
    for (const row of list) {
      const key = row.visitId ?? ''
      map.set(key, [...(map.get(key) ?? []), row])
    }
    return map
  }
  const entries = by(
    await db
      .select(linesAsWritten)
      .from(table.visitEntries)
      .where(id ? eq(table.visitEntries.visitId, id) : undefined)
      .orderBy(asc(table.visitEntries.seq)),
  )
  const calibrations = by(await db.select().from(table.calibrations).orderBy(asc(table.calibrations.id)))
  const observations = by(await db.select().from(table.driftObservations).orderBy(asc(table.driftObservations.id)))
  const noted = by(await db.select().from(table.corrections).orderBy(asc(table.corrections.id)))
  return plain({
    format: 'frustum-records' as const,
    version: 2 as const,
    site: { name: site?.name ?? 'Your site', timeZone: site?.timeZone ?? 'UTC' },
    removals: await removals(db, rows),
    visits: rows.flatMap((visit) =>
      visit.snapshot === null
        ? []
        : [
            {
              id: visit.id,
              procedure: visit.procedure,
              operator: visit.operator,
              startedAt: visit.startedAt.toISOString(),
              closedAt: (visit.closedAt ?? visit.startedAt).toISOString(),
              outcome: visit.outcome ?? 'done',
              findings: visit.findings,
              snapshot: visit.snapshot,
              record: visit.record,
              entries: (entries.get(visit.id) ?? []).map(entryRecord),
              calibrations: (calibrations.get(visit.id) ?? []).map((r) =>
                without(r, 'id', 'visitId', 'installationId'),
              ),
              observations: (observations.get(visit.id) ?? []).map((r) =>
                without(r, 'id', 'visitId', 'installationId'),
              ),
              corrections: (noted.get(visit.id) ?? []).map((r) => without(r, 'id', 'visitId')),
            },
          ],
    ),
  })
}

async function removals(db: Database, of: readonly { installationId: number }[]): Promise<RecordsDocument['removals']> {
  const rows = await db
    .select({
      position: table.positions.code,
      serialNumber: table.sensors.serialNumber,
      installedAt: table.installations.installedAt,
      removedAt: table.installations.removedAt,
    })
    .from(table.installations)
    .innerJoin(table.positions, eq(table.installations.positionId, table.positions.id))
    .innerJoin(table.sensors, eq(table.installations.sensorId, table.sensors.id))
    .where(
      and(
        isNotNull(table.installations.removedAt),
        inArray(
          table.installations.id,
          of.map((v) => v.installationId),
        ),
      ),
    )
    .orderBy(asc(table.installations.id))
  return rows.map((r) => ({
    ...r,
    installedAt: r.installedAt.toISOString(),
    removedAt: (r.removedAt as Date).toISOString(),
  }))
}
