import { randomUUID } from 'node:crypto'
import type { TripSummary } from '@frustum/contract'
import { kindOf } from '@frustum/core'
import { asc, eq, inArray, isNull } from 'drizzle-orm'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { installations, positions, trips, visits } from '../database/schema.ts'
import { notFound } from '../problem.ts'
import { visitsUnderWay } from '../visits/underWay.ts'

/** Begins a trip round several sensors, put in the order that their prerequisites ask for. */
export async function startTrip(
  db: Database,
  body: { operator: string; name: string; positions: readonly string[] },
  now: number,
): Promise<TripSummary> {
  const rows = await db
    .select()
    .from(positions)
    .where(inArray(positions.code, [...new Set(body.positions)]))
  if (rows.length === 0) throw notFound('sensor')
  const place = (code: string) => body.positions.indexOf(code)
  const ordered = rows.toSorted(
    (a, b) => kindOf(a.kind).tripOrder - kindOf(b.kind).tripOrder || place(a.code) - place(b.code),
  )
  const [trip] = await db
    .insert(trips)
    .values({
      id: randomUUID(),
      name: body.name,
      operator: body.operator,
      positions: ordered.map((p) => p.code),
      startedAt: new Date(now),
    })
    .returning()
  return summary(db, trip as typeof trips.$inferSelect)
}

export const openTrips = (db: Database): Promise<TripSummary[]> =>
  derived(db, 'open trips', [db.$client.writes], async () => {
    const rows = await db.select().from(trips).where(isNull(trips.closedAt)).orderBy(asc(trips.startedAt))
    return Promise.all(rows.map((trip) => summary(db, trip)))
  })

/** @throws Problem 404 */
export async function tripOf(db: Database, id: string): Promise<TripSummary> {
  const [trip] = await db.select().from(trips).where(eq(trips.id, id))
  if (!trip) throw notFound('trip')
  return summary(db, trip)
}

/** Sensors that are still open stay so, and are found on Rounds. */
export async function endTrip(db: Database, id: string, now: number): Promise<TripSummary> {
  await tripOf(db, id)
  await db
    .update(trips)
    .set({ closedAt: new Date(now) })
    .where(eq(trips.id, id))
  return tripOf(db, id)
}

async function summary(db: Database, trip: typeof trips.$inferSelect): Promise<TripSummary> {
  const done = await db
    .select({ visit: visits, code: positions.code })
    .from(visits)
    .innerJoin(installations, eq(visits.installationId, installations.id))
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .where(eq(visits.tripId, trip.id))
    .orderBy(asc(visits.startedAt))
  const newest = new Map(done.map((d) => [d.code, d.visit]))
  const underWay = new Map((await visitsUnderWay(db)).map((v) => [v.row.id, v.current?.short ?? null]))
  return {
    id: trip.id,
    name: trip.name,
    operator: trip.operator,
    startedAt: trip.startedAt.getTime(),
    visits: trip.positions.map((position) => {
      const visit = newest.get(position)
      const step = visit ? (underWay.get(visit.id) ?? null) : null
      return { position, id: visit?.id ?? null, step, outcome: visit?.outcome ?? null }
    }),
  }
}
