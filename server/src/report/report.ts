import {
  addDays,
  type FoundWithin,
  isCalendarDay,
  type MissedDate,
  type ReportStatus,
  type ReportView,
  type ReportVisit,
} from '@frustum/contract'
import { type ClosedRecord, DAY_MS, modelOf, type Quantity } from '@frustum/core'
import { and, asc, count, eq, gte, lt, lte } from 'drizzle-orm'
import { computedSensors } from '../ageing/computed.ts'
import { nextDateOf } from '../ageing/forecasts.ts'
import { changeSentence } from '../changes/changes.ts'
import { partOf } from '../database/canonicalJson.ts'
import type { Database } from '../database/open.ts'
import type { StoredSnapshot } from '../database/recordColumns.ts'
import {
  changes,
  corrections,
  devices,
  driftObservations,
  installations,
  places,
  positions,
  sensors,
  sites,
  visits,
} from '../database/schema.ts'
import { grouped } from '../grouped.ts'
import { pastOf } from '../probes/past.ts'
import { Problem } from '../problem.ts'
import { isWholeRecord } from '../records/takenIn.ts'
import { findThing } from '../rig/things.ts'
import { policyOf } from '../sensorPolicy.ts'
import { calendarIn } from '../zone.ts'

/** Days as they are asked for: ISO dates, in the site's own time. */
export interface ReportAsked {
  on?: string
  from?: string
  to?: string
}

/** A span that nobody reads in one go, days. */
const LONGEST_SPAN = 3660
const USUAL_SPAN = 90

/** What the row of a position holds of its rules, as every record keeps it. */
interface KeptRules {
  tolerance: number
  ceilingDays: number
  authorityDays?: number | null
}

/** A closed visit with the rules that its record keeps. */
interface Kept extends ReportVisit {
  installationId: number
  allowedDays: number
  byAuthority: boolean
  /** When its sensor left the position since, epoch ms. */
  removedAt: number | null
}

/**
 * What an inspector asks for: how all sensors stood on a day, and what happened in a span. All of it is from the records,
 * with the rules that held then; only the next date of today is computed.
 */
export async function reportOf(db: Database, asked: ReportAsked, now: number): Promise<ReportView> {
  const [site] = await db.select().from(sites)
  if (!site) throw new Problem(409, 'no-site', 'There is no site yet.', { hint: 'Set it up first.' })
  const span = spanOf(asked, site.timeZone, now)
  const kept = await keptVisits(db, Math.max(span.on, span.to))
  const inSpan = kept.filter((v) => v.at >= span.from && v.at < span.to)
  const shown = await Promise.all(
    inSpan.map(async (v) => ({ ...plain(v), corrected: v.found === 'outside' ? await correctedOf(db, v) : null })),
  )
  return {
    site: site.name,
    timeZone: site.timeZone,
    madeAt: now,
    ...span,
    status: await statusOn(db, kept, span.on, now),
    visits: shown,
    missed: missedIn(kept, { ...span, to: Math.min(span.to, now) }),
    changes: await changesIn(db, span),
    people: [...grouped(inSpan, (v) => v.operator)]
      .map(([name, of]) => ({ name, visits: of.length }))
      .sort((a, b) => b.visits - a.visits),
  }
}

/** @throws Problem for a day that is none, and a span that is none */
function spanOf({ on, from, to }: ReportAsked, timeZone: string, now: number) {
  const calendar = calendarIn(timeZone, now)
  const startOf = (day: string, next: number): number => {
    if (!isCalendarDay(day))
      throw new Problem(400, 'invalid', `"${day}" isn't a valid date.`, { hint: 'Enter it as 2026-03-31.' })
    return calendar.startOf(addDays(day, next))
  }
  const end = calendar.startOf(calendar.tomorrow)
  const until = to === undefined ? end : startOf(to, 1)
  const since = from === undefined ? until - USUAL_SPAN * DAY_MS : startOf(from, 0)
  if (since >= until || until - since > LONGEST_SPAN * DAY_MS) {
    throw new Problem(400, 'invalid', 'The span must begin before it ends, and be no longer than ten years.')
  }
  return { on: on === undefined ? end : startOf(on, 1), from: since, to: until }
}

/** Closed visits until an instant, oldest first, each as its record says it. */
async function keptVisits(db: Database, until: number): Promise<Kept[]> {
  const rows = await db
    .select({
      id: visits.id,
      installationId: visits.installationId,
      startedAt: visits.startedAt,
      closedAt: visits.closedAt,
      operator: visits.operator,
      outcome: visits.outcome,
      procedure: visits.procedure,
      position: partOf<StoredSnapshot['position'] & KeptRules>(visits.snapshot, 'position'),
      place: partOf<string>(visits.snapshot, 'place', 'name'),
      serialNumber: partOf<string>(visits.snapshot, 'sensor', 'serialNumber'),
      unit: partOf<string>(visits.snapshot, 'units', 'error'),
      name: partOf<string>(visits.record, 'procedureName'),
      work: partOf<ClosedRecord['work']>(visits.record, 'work'),
      asFound: partOf<Quantity | null>(visits.record, 'asFound'),
      asLeft: partOf<Quantity | null>(visits.record, 'asLeft'),
      error: driftObservations.asFound,
      removedAt: installations.removedAt,
    })
    .from(visits)
    .innerJoin(installations, eq(installations.id, visits.installationId))
    .leftJoin(driftObservations, eq(driftObservations.visitId, visits.id))
    .where(and(isWholeRecord, lt(visits.closedAt, new Date(until))))
    .orderBy(asc(visits.closedAt))
  const corrected = new Map(
    (await db.select({ id: corrections.visitId, n: count() }).from(corrections).groupBy(corrections.visitId)).map(
      (c) => [c.id, c.n],
    ),
  )
  return rows.flatMap(({ startedAt, closedAt, position, unit, error, procedure, removedAt, ...row }) => {
    if (!position) return []
    const { tolerance, ceilingDays, authorityDays } = position
    const byAuthority = authorityDays != null && authorityDays <= ceilingDays
    return [
      {
        ...row,
        at: (closedAt ?? startedAt).getTime(),
        position: position.code,
        place: row.place ?? '',
        serialNumber: row.serialNumber ?? '',
        name: row.name ?? procedure,
        work: row.work ?? null,
        asFound: row.asFound ?? null,
        asLeft: row.asLeft ?? null,
        tolerance: { value: tolerance, unit: unit ?? '', decimals: row.asFound?.decimals ?? 2, difference: true },
        found: foundWithin(error, tolerance),
        corrections: corrected.get(row.id) ?? 0,
        corrected: null,
        allowedDays: byAuthority ? authorityDays : ceilingDays,
        byAuthority,
        removedAt: removedAt?.getTime() ?? null,
      } satisfies Kept,
    ]
  })
}

const foundWithin = (error: number | null, tolerance: number): FoundWithin =>
  error === null ? 'not read' : Math.abs(error) <= tolerance ? 'within' : 'outside'

/** Without what the report works with itself. */
const plain = ({
  installationId: _,
  allowedDays: __,
  byAuthority: ___,
  removedAt: ____,
  ...visit
}: Kept): ReportVisit => visit

/** Nothing can be said before the first visit of a sensor, nor of one that was moved away since. */
async function correctedOf(db: Database, { position, id }: Kept): Promise<ReportVisit['corrected']> {
  try {
    const { days, affected, rating, action } = await pastOf(db, position, id)
    return { days, affected, rating, action }
  } catch (error) {
    if (error instanceof Problem) return null
    throw error
  }
}

async function statusOn(db: Database, kept: readonly Kept[], on: number, now: number): Promise<ReportStatus[]> {
  const there = await db
    .select({ installation: installations, position: positions, place: places, device: devices, sensor: sensors })
    .from(installations)
    .innerJoin(positions, eq(positions.id, installations.positionId))
    .innerJoin(places, eq(places.id, positions.placeId))
    .innerJoin(devices, eq(devices.id, installations.deviceId))
    .innerJoin(sensors, eq(sensors.id, installations.sensorId))
    .where(lt(installations.installedAt, new Date(on)))
    .orderBy(asc(places.sortOrder), asc(places.name), asc(positions.sortOrder), asc(positions.code))
  const inUse = there.filter(
    ({ installation, position }) =>
      (installation.removedAt === null || installation.removedAt.getTime() > on) &&
      (position.archivedAt === null || position.archivedAt.getTime() > on),
  )
  const { fit, forecasts } = on > now ? await computedSensors(db, now) : { fit: [], forecasts: new Map() }
  const planned = new Map(
    fit.map((i) => {
      const known = forecasts.get(i.installation.id)
      return [i.installation.id, known ? nextDateOf(known, policyOf(i.position, known.hours)).at : null]
    }),
  )
  return inUse.map(({ installation, position, place, device, sensor }) => {
    // A visit that was ended without a result says nothing of the sensor.
    const own = kept.filter((v) => v.installationId === installation.id && v.outcome === 'done')
    const last = own.findLast((v) => v.at < on)
    const after = own.find((v) => v.at >= on)
    const at = planned.get(installation.id)
    return {
      position: position.code,
      place: place.name,
      spot: position.spot,
      quantity: modelOf(position.kind).quantity(device.setting),
      serialNumber: sensor.serialNumber,
      last: last ? plain(last) : null,
      next: at != null ? { at, made: false } : after ? { at: after.at, made: true } : null,
    }
  })
}

/** Where the next visit came later than the rules of the one before allowed; or has not come until the end of the span. */
function missedIn(kept: readonly Kept[], { from, to }: { from: number; to: number }): MissedDate[] {
  const missed: MissedDate[] = []
  for (const own of grouped(
    kept.filter((v) => v.outcome === 'done'),
    (v) => v.installationId,
  ).values()) {
    own.forEach((visit, i) => {
      const made = own[i + 1]?.at ?? null
      const due = visit.at + visit.allowedDays * DAY_MS
      // One that went to storage, or elsewhere, has no date there any more.
      const end = Math.min(made ?? to, to, visit.removedAt ?? to)
      // A sensor that was retired has no date.
      if (visit.work === 'retired' || end <= due + DAY_MS || due >= to || (made !== null && made < from)) return
      const { position, place, allowedDays, byAuthority } = visit
      const lateDays = Math.floor((end - due) / DAY_MS)
      missed.push({
        position,
        place,
        from: visit.at,
        due,
        allowedDays,
        byAuthority,
        made: made !== null && made < to ? made : null,
        lateDays,
      })
    })
  }
  return missed.sort((a, b) => a.due - b.due)
}

/** Changes of positions, whose rules say when and how well they are to be kept. */
async function changesIn(db: Database, { from, to }: { from: number; to: number }): Promise<ReportView['changes']> {
  const rows = await db
    .select()
    .from(changes)
    .where(and(eq(changes.subject, 'position'), gte(changes.at, new Date(from)), lte(changes.at, new Date(to))))
    .orderBy(asc(changes.id))
  const things = new Map<number, Awaited<ReturnType<typeof findThing>>>()
  for (const { subjectId } of rows) {
    if (subjectId !== null && !things.has(subjectId)) things.set(subjectId, await findThing(db, 'position', subjectId))
  }
  return rows.flatMap((row) => {
    const thing = things.get(row.subjectId ?? 0)
    if (!thing) return []
    return [
      {
        at: row.at.getTime(),
        operator: row.operator,
        position: thing.title,
        what: changeSentence(row, thing.words),
        why: row.why,
      },
    ]
  })
}
