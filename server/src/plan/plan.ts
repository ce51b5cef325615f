import { TZDate } from '@date-fns/tz'
import {
  addressOf,
  type ConsumableView,
  ENDPOINTS,
  type KitLine,
  type PlannedTripView,
  type PlanView,
} from '@frustum/contract'
import {
  DAY_MS,
  modelOf,
  type PlannedTrip,
  POURING_ML,
  planTrips,
  standardOf,
  timelineOf,
  type WorkingPractices,
} from '@frustum/core'
import { addHours } from 'date-fns/addHours'
import { startOfDay } from 'date-fns/startOfDay'
import { asc, desc, eq, inArray, isNull, max } from 'drizzle-orm'
import { computedSensors } from '../ageing/computed.ts'
import { type Forecasts, nextDateOf, outsideAt, type SensorForecast } from '../ageing/forecasts.ts'
import type { SensorHealth } from '../ageing/health.ts'
import { noteChanges } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { consumableRenewals, consumables, movedVisits, places, positions, sites } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'
import { stateOf, unfitRows } from '../rounds/overview.ts'
import { mayBeRight } from '../rounds/usualProcedure.ts'
import { policyOf } from '../sensorPolicy.ts'
import { type Installed, practicesAt } from '../sensors.ts'
import { type LotWithLeft, lotAmong, lotsWithLeft } from '../shelf/lots.ts'
import { calendarIn } from '../zone.ts'
import { jobOf, type PlannedWork, plannedWork, prerequisitesOf } from './procedures.ts'

/** How far the plan looks. */
const DAYS_AHEAD = 84
/** When a trip begins, hours into the day: common practice, no source. */
const ARRIVAL_HOUR = 9
const MINUTE_MS = 60_000
const QUARTER_MS = 15 * MINUTE_MS

/** Proposed trips for the coming weeks, with prep, kit and risk. */
export async function planOf(db: Database, now: number): Promise<PlanView> {
  const [site] = await db.select().from(sites)
  const zone = site?.timeZone ?? 'UTC'
  const dayOf = (at: number) => startOfDay(new TZDate(at, zone)).getTime()
  const today = dayOf(now)
  const { fit: installed, forecasts, healths } = await computedSensors(db, now)
  const moved = await movesInForce(db, forecasts, installed)
  const sensors = installed.map((i) => {
    const known = forecasts.get(i.installation.id) as SensorForecast
    const policy = policyOf(i.position, known.hours)
    const next = nextDateOf(known, policy)
    return {
      position: i.position.code,
      place: i.place.name,
      from: known.visitedAt,
      days: Math.max(1, next.usualDays),
      dueAt: next.at,
      floorDays: policy.floorDays,
      movedTo: moved.get(i.position.id) ?? null,
    }
  })
  const trips = planTrips(sensors, today, DAYS_AHEAD, dayOf)
  const tripsAlone = sensors.reduce((sum, s) => sum + planTrips([s], today, DAYS_AHEAD, dayOf).length, 0)
  const sound = soundOnes(installed, forecasts, healths, now)
  const work = await plannedWork(db, installed, (position) => sound.has(position))
  const byCode = new Map(installed.map((i) => [i.position.code, i]))
  const views: PlannedTripView[] = []
  const visited = new Set<string>()
  const practices = await practicesAt(db, new Date(now))
  const lots = await lotsWithLeft(db)
  for (const trip of trips) {
    views.push(tripView(trip, { byCode, work, forecasts, zone, now, practices, visited, lots }))
    for (const v of trip.visits) visited.add(v.position)
  }
  return {
    today,
    daysAhead: DAYS_AHEAD,
    trips: views,
    risks: Object.fromEntries(installed.map((i) => [i.position.code, risksOf(i, forecasts, today)])),
    consumables: await consumablesOf(db),
    tripsAlone,
    unfit: await unfitRows(db, now),
    calendarPath: addressOf(ENDPOINTS.calendar, { token: site?.calendarToken ?? '' }),
  }
}

function soundOnes(
  installed: readonly Installed[],
  forecasts: Forecasts,
  healths: ReadonlyMap<number, SensorHealth>,
  now: number,
): Set<string> {
  return new Set(
    installed.flatMap((i) => {
      const known = forecasts.get(i.installation.id) as SensorForecast
      const policy = policyOf(i.position, known.hours)
      const figure = { policy, next: nextDateOf(known, policy) }
      const { driftState } = stateOf(known, figure, healths.get(i.installation.id), now)
      return mayBeRight(driftState, figure.next) ? [i.position.code] : []
    }),
  )
}

const outsideOn = (i: Installed, forecasts: Forecasts, at: number): number =>
  outsideAt(forecasts.get(i.installation.id) as SensorForecast, i.position.tolerance, at)

const risksOf = (i: Installed, forecasts: Forecasts, today: number): number[] =>
  Array.from({ length: DAYS_AHEAD + 1 }, (_, d) => Number(outsideOn(i, forecasts, today + d * DAY_MS).toFixed(3)))

interface TripContext {
  byCode: ReadonlyMap<string, Installed>
  work: ReadonlyMap<string, PlannedWork>
  forecasts: Forecasts
  zone: string
  now: number
  practices: WorkingPractices
  /** Sensors that a trip before this one visits: their forecast from today says nothing of later. */
  visited: ReadonlySet<string>
  lots: readonly LotWithLeft[]
}

function tripView(trip: PlannedTrip, context: TripContext): PlannedTripView {
  const { byCode, work, forecasts, zone, now, practices, visited, lots } = context
  const along = trip.visits.map((v) => byCode.get(v.position) as Installed)
  const jobs = along.map((i) => {
    const own = work.get(i.position.code) as PlannedWork
    return jobOf(i, own, prerequisitesOf(own, i, along), practices)
  })
  const timeline = timelineOf(jobs)
  return {
    id: `${trip.place} ${trip.day}`,
    place: trip.place,
    day: trip.day,
    arrival: arrivalOn(trip.day, zone, now, timeline.lead),
    visits: trip.visits.map((v, k) => {
      const i = along[k] as Installed
      const { procedure } = work.get(v.position) as PlannedWork
      return {
        ...v,
        quantity: modelOf(i.position.kind).quantity(i.device.setting),
        spot: i.position.spot,
        procedure: procedure.name,
        minutes: procedure.handsOnMinutes,
        consequence: i.position.consequence,
        outside: visited.has(v.position) ? null : outsideOn(i, forecasts, trip.day),
      }
    }),
    timeline,
    kit: kitOf(trip, work, lots, zone),
    needs: [...new Set(trip.visits.map((v) => (work.get(v.position) as PlannedWork).procedure.needs))],
  }
}

/** At the usual hour; on a day that is under way not before what comes first can still be begun. */
function arrivalOn(day: number, zone: string, now: number, leadMinutes: number): number {
  const usual = addHours(new TZDate(day, zone), ARRIVAL_HOUR).getTime()
  const soonest = Math.ceil((now + leadMinutes * MINUTE_MS) / QUARTER_MS) * QUARTER_MS
  return Math.max(usual, soonest)
}

/** What to pour, from which lots, and what is wrong with them on that day. */
function kitOf(
  trip: PlannedTrip,
  work: ReadonlyMap<string, PlannedWork>,
  lots: readonly LotWithLeft[],
  zone: string,
): KitLine[] {
  const pours = new Map<string, number>()
  for (const { position } of trip.visits) {
    const { procedure, standards } = work.get(position) as PlannedWork
    for (const [role, code] of Object.entries(standards)) {
      pours.set(code, (pours.get(code) ?? 0) + (procedure.pours[role] ?? 1))
    }
  }
  const lines: KitLine[] = []
  for (const [code, count] of pours) {
    if (count === 0) continue
    const lot = lotAmong(
      lots.filter((l) => l.lot.standard === code),
      calendarIn(zone, trip.day),
    )
    const wanted = count * POURING_ML
    lines.push({
      label: standardOf(code).label,
      lot: lot?.lot ?? null,
      pours: count,
      milliliters: wanted,
      warning: !lot
        ? 'none on the shelf'
        : lot.expired
          ? 'expired by then'
          : lot.openTooLong
            ? 'open too long by then'
            : lot.left < wanted
              ? `only ${Math.max(0, Math.round(lot.left))} mL left`
              : null,
    })
  }
  return lines
}

/** Moves by hand that still hold: made after the last visit, and not taken back. */
async function movesInForce(
  db: Database,
  forecasts: Forecasts,
  installed: readonly Installed[],
): Promise<Map<number, number>> {
  const rows = await db.select().from(movedVisits).orderBy(asc(movedVisits.id))
  const newest = new Map(rows.map((r) => [r.positionId, r]))
  const found = new Map<number, number>()
  for (const i of installed) {
    const move = newest.get(i.position.id)
    const last = forecasts.get(i.installation.id)?.visitedAt ?? 0
    if (move?.to && move.movedAt.getTime() > last) found.set(i.position.id, move.to.getTime())
  }
  return found
}

/** Puts sensors on another day, or back on what is proposed. @throws Problem 404, 400 */
export async function movePlan(
  db: Database,
  body: { operator: string; positions: readonly string[]; to: number | null },
  now: number,
): Promise<PlanView> {
  const rows = await db
    .select()
    .from(positions)
    .where(inArray(positions.code, [...body.positions]))
  if (rows.length === 0) throw notFound('sensor')
  if (body.to !== null && (body.to < now - DAY_MS || body.to > now + DAYS_AHEAD * DAY_MS)) {
    throw new Problem(400, 'no-such-day', 'A visit can be put on a day from today on, within the plan.', {
      detail: 'Nothing was moved.',
      hint: `Choose a day within the next ${DAYS_AHEAD} days.`,
    })
  }
  if (body.to !== null) await refuseBeyondAuthority(db, rows, body.to, now)
  await db.insert(movedVisits).values(
    rows.map((r) => ({
      positionId: r.id,
      movedAt: new Date(now),
      operator: body.operator,
      to: body.to === null ? null : new Date(body.to),
    })),
  )
  return planOf(db, now)
}

/** The permit's or the authority's rule comes before what a hand may move. */
async function refuseBeyondAuthority(
  db: Database,
  rows: readonly (typeof positions.$inferSelect)[],
  to: number,
  now: number,
): Promise<void> {
  const { fit, forecasts } = await computedSensors(db, now)
  for (const i of fit) {
    const { code, authorityDays, authorityRule } = i.position
    if (authorityDays === null || !rows.some((r) => r.code === code)) continue
    const last = (forecasts.get(i.installation.id) as SensorForecast).visitedAt
    if (to > Math.max(now, last + authorityDays * DAY_MS)) {
      throw new Problem(409, 'authority', `${code} may not go later than the authority’s rule allows.`, {
        detail: authorityRule ?? `At least every ${authorityDays} days.`,
        hint: 'Choose an earlier day.',
      })
    }
  }
}

async function consumablesOf(db: Database): Promise<ConsumableView[]> {
  const rows = await db
    .select({ consumable: consumables, place: places })
    .from(consumables)
    .innerJoin(places, eq(consumables.placeId, places.id))
    .where(isNull(consumables.archivedAt))
  const renewed = await db
    .select({ id: consumableRenewals.consumableId, at: max(consumableRenewals.at) })
    .from(consumableRenewals)
    .where(isNull(consumableRenewals.undoneAt))
    .groupBy(consumableRenewals.consumableId)
  const last = new Map(renewed.map((r) => [r.id, r.at?.getTime() ?? 0]))
  return rows
    .map(({ consumable, place }) => {
      const at = Math.max(consumable.since.getTime(), last.get(consumable.id) ?? 0)
      return {
        id: consumable.id,
        place: place.name,
        name: consumable.name,
        everyDays: consumable.everyDays,
        last: at,
        due: at + consumable.everyDays * DAY_MS,
      }
    })
    .sort((a, b) => a.due - b.due)
}

/** Notes that something was renewed now. @throws Problem 404 */
export async function renew(db: Database, id: number, operator: string, now: number): Promise<PlanView> {
  const [known] = await db.select().from(consumables).where(eq(consumables.id, id)).orderBy(desc(consumables.id))
  if (!known) throw notFound('consumable')
  const at = new Date(now)
  const before = (await consumablesOf(db)).find((c) => c.id === id)?.last
  await db.transaction(async (tx) => {
    await tx.insert(consumableRenewals).values({ consumableId: id, at, operator })
    await noteChanges(
      tx,
      { subject: 'consumable', id },
      { operator, at },
      {
        before: { renewed: before === undefined ? null : new Date(before).toISOString() },
        after: { renewed: at.toISOString() },
      },
    )
  })
  return planOf(db, now)
}
