import {
  countHours,
  DAY_MS,
  type DriftForecast,
  type DriftHistory,
  type DriftObservation,
  type DriftSeries,
  driftSeries,
  type HoursCounted,
  type IntervalPolicy,
  type MeterReading,
  modelOf,
  type NextDate,
  type NumbersChange,
  nextDate,
  probabilityInTolerance,
  type RecordedVisit,
  type SensorKind,
  type Sentence,
  say,
  sensorEvent,
  TAKEN_ON,
  withNumbersChanged,
} from '@frustum/core'
import { asc, desc, inArray, sql } from 'drizzle-orm'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { driftObservations, events, exclusions, hoursRun } from '../database/schema.ts'
import { numbersChanges } from '../devices/deviceCalibration.ts'
import { earlierInstallations, type Installed } from '../sensors.ts'
import { besideObservation, besideWords, disagrees, referenceValuesOf } from './besideDisplay.ts'
import { besideTwins } from './besideTwin.ts'
import { forecastOffThread } from './forecastPool.ts'
import { carriedOver, setUpChanges } from './otherSetUp.ts'
import { transferredObservations } from './transferredObservations.ts'

/** What is forecast of an installed sensor, and what it is computed from. */
export interface SensorForecast {
  series: DriftSeries
  /** Never empty: a sensor nobody has visited starts at its installation. */
  observations: DriftObservation[]
  forecast: DriftForecast
  /** What its own visits alone say, where the forecast counts what its twin reads. */
  alone: DriftForecast
  /** How it reads beside its twin; null where it has none, or both may be right. */
  besideTwin: Sentence | null
  /** Epoch ms; readings beside the display are no visits. */
  visitedAt: number
  /** Of the device's numbers since the last visit; the forecast counts them from that visit on. */
  changes: NumbersChange[]
  /** Events since the last visit that ask for a check, oldest first. */
  happened: { at: number; what: Sentence }[]
  /** In use, where an hour meter is read at its position. */
  hours: HoursCounted | null
}

export type Forecasts = ReadonlyMap<number, SensorForecast>

/** How likely a sensor is out of its tolerance at an instant by its own drift, 0 to 1. */
export const outsideAt = ({ forecast }: Pick<SensorForecast, 'forecast'>, tolerance: number, at: number): number =>
  1 - probabilityInTolerance(forecast, Math.max(0, (at - forecast.from) / DAY_MS), tolerance)

const HOUR_MS = 3_600_000

/** What everything that is derived of the whole site rests on: its records, and the hour. */
export async function siteRevision(db: Database, now: number): Promise<readonly unknown[]> {
  return [await revisionOf(db), Math.floor(now / HOUR_MS)]
}

/** Changes whenever anything is recorded that forecasts, health or plan are computed from. */
const revisionOf = (db: Database): Promise<string> =>
  derived(db, 'revision', [db.$client.writes], () => readRevision(db))

async function readRevision(db: Database): Promise<string> {
  const { rows } = await db.execute<{ revision: string }>(sql`
    select concat_ws(' ',
      (select max(id) from drift_observations), (select max(id) from reference_values),
      (select max(id) from taken_back), (select max(id) from events), (select max(id) from exclusions),
      (select max(id) from calibrations), (select max(id) from test_answers), (select max(id) from installations),
      (select max(id) from device_numbers), (select max(id) from hours_run), (select max(id) from changes where subject <> 'person'),
      (select count(*) from installations where removed_at is not null)
      ) as revision`)
  return rows[0]?.revision ?? ''
}

/** Sensors that would be set up otherwise, by installation: since when; null where it was so from the beginning. */
export type Would = ReadonlyMap<number, number | null>

/**
 * The forecasts of these sensors, pooled by kind.
 * @param would what is not written yet
 */
export async function computeForecasts(
  db: Database,
  installed: readonly Installed[],
  now: number,
  would: Would = new Map(),
): Promise<Forecasts> {
  const ids = installed.map((i) => i.installation.id)
  const recorded = await recordedVisits(db, ids)
  const { changes, asking } = await eventsOf(db, ids)
  const references = await referenceValuesOf(db, ids)
  const otherwise = await setUpChanges(db, installed)
  for (const i of installed) {
    const { id } = i.installation
    const turned = (otherwise.get(id) ?? []).filter((c) => c.turns).map((c) => c.validFrom.getTime())
    const from = i.installation.installedAt.getTime()
    for (const at of new Set([...turned, would.get(id) ?? from])) {
      if (at <= from) continue
      // Until somebody has looked, nothing says how it errs now: the check that is asked for begins the new course.
      if (recorded.get(id)?.some((v) => v.at >= at)) changes.set(id, [...(changes.get(id) ?? []), at])
      asking.set(id, [...(asking.get(id) ?? []), { at, what: 'Set up otherwise' }])
    }
    const own = recorded.get(id)
    if (own && (otherwise.has(id) || would.has(id))) recorded.set(id, await carriedOver(db, i, own))
    // What was read beside the display in other water, or on another scale, says nothing of now.
    const beside = references.get(id)?.filter((r) => r.at >= Math.max(from, ...turned)) ?? []
    if (beside.length > 0) recorded.set(id, [...(recorded.get(id) ?? []), ...beside.map(besideObservation)])
    const newest = beside.at(-1)
    if (newest && disagrees(i, newest))
      asking.set(id, [...(asking.get(id) ?? []), { at: newest.at, what: besideWords(i, newest) }])
  }
  const numbers = await numbersChanges(db, installed)
  const meters = await metersOf(db)
  const earlier = await earlierInstallations(db, installed)
  const transferred = new Map<number, DriftObservation[]>()
  for (const i of installed) {
    const before = (earlier.get(i.installation.id) ?? []).map((e) => e.id)
    if (before.length > 0) transferred.set(i.installation.id, await transferredObservations(db, before, i))
  }
  const found = new Map<number, SensorForecast>()
  for (const kind of new Set(installed.map((i) => i.position.kind))) {
    const like = installed.filter((i) => i.position.kind === kind)
    const inputs = like.map((i) => {
      const series = driftSeries(recorded.get(i.installation.id) ?? [], {
        installedAt: i.installation.installedAt.getTime(),
        now,
      })
      const isVisited = series.observations.some((o) => !o.beside)
      const own = isVisited ? series.observations : [...unvisited(i), ...series.observations]
      const from = own[0]?.at ?? 0
      // A sensor that was moved brings its past along, computed for the water it is in now.
      const visited = [...(transferred.get(i.installation.id) ?? []).filter((o) => o.at < from), ...own]
      const observations = withNumbersChanged(visited, numbers.get(i.installation.id) ?? [])
      const { unit } = modelOf(i.position.kind).errorScale
      return { series, observations, changedAt: changes.get(i.installation.id) ?? [], unit }
    })
    const histories = inputs.map(({ observations, changedAt, unit }) => ({ observations, changedAt, unit }))
    const alone = await forecastKind(db, kind as SensorKind, histories)
    const beside = await besideTwins(
      db,
      like.map((installed, k) => {
        const own = alone[k] as DriftForecast
        const changedAt = numbers.get(installed.installation.id)?.at(-1)?.at ?? 0
        return { installed, alone: own, since: Math.max(own.from, changedAt) }
      }),
      now,
    )
    like.forEach((i, k) => {
      const { series, observations } = inputs[k] as (typeof inputs)[number]
      const last = observations.at(-1) as DriftObservation
      const lastVisit = observations.findLast((o) => !o.beside) ?? last
      const hours = countHours(meters.get(i.position.id) ?? [], last.at)
      const changes = (numbers.get(i.installation.id) ?? []).filter((c) => c.at > last.at)
      // Of a sensor that was taken on something is known once a past was brought in.
      const isKnown = series.observations.some((o) => !o.beside)
      const happened = (asking.get(i.installation.id) ?? [])
        .filter((e) => e.at > lastVisit.at && !(isKnown && e.what === TAKEN_ON.label))
        .toSorted((a, b) => a.at - b.at)
      const own = alone[k] as DriftForecast
      const { forecast = own, words: besideTwin = null } = beside.get(i.installation.id) ?? {}
      const visitedAt = lastVisit.at
      found.set(i.installation.id, {
        series,
        observations,
        forecast,
        alone: own,
        besideTwin,
        visitedAt,
        changes,
        hours,
        happened,
      })
    })
  }
  return found
}

/** The forecasts of all sensors of a kind, from what they rest on alone: other kinds' records do not touch them. */
function forecastKind(db: Database, kind: SensorKind, histories: DriftHistory[]): Promise<DriftForecast[]> {
  return derived(db, `forecasts of ${kind}`, [JSON.stringify(histories)], () =>
    forecastOffThread(histories, modelOf(kind).usualDrift),
  )
}

/** The next date of an installed sensor under these rules. */
export function nextDateOf(
  {
    forecast,
    alone,
    besideTwin,
    observations,
    changes,
    happened,
  }: Pick<SensorForecast, 'forecast' | 'alone' | 'besideTwin' | 'observations' | 'changes' | 'happened'>,
  policy: IntervalPolicy,
): NextDate {
  const by = (known: DriftForecast) => nextDate(known, policy, observations, changes, happened)
  const beside = by(forecast)
  // Two that agree may both be wrong: what its own visits say is not put off by a twin.
  const own = forecast === alone ? beside : by(alone)
  const next = own.at < beside.at ? own : beside
  const byDrift = next.limitedBy === 'drift' || next.limitedBy === 'floor'
  return besideTwin && byDrift ? { ...next, reason: say`${next.reason} ${besideTwin}` } : next
}

/** A sensor nobody has visited yet starts at its installation, within its tolerance. */
const unvisited = ({ installation, position }: Installed): DriftObservation[] => [
  {
    at: installation.installedAt.getTime(),
    asFound: null,
    asLeft: 0,
    uncertainty: position.tolerance / 2,
    adjusted: true,
  },
]

/** Readings of the hour meters by position. */
async function metersOf(db: Database): Promise<Map<number, MeterReading[]>> {
  const byId = new Map<number, MeterReading[]>()
  for (const { positionId, at, hours } of await db.select().from(hoursRun)) {
    const of = byId.get(positionId) ?? []
    byId.set(positionId, of)
    of.push({ at: at.getTime(), hours })
  }
  return byId
}

async function recordedVisits(db: Database, ids: number[]): Promise<Map<number, RecordedVisit[]>> {
  if (ids.length === 0) return new Map()
  const rows = await db
    .select()
    .from(driftObservations)
    .where(inArray(driftObservations.installationId, ids))
    .orderBy(asc(driftObservations.id))
  const excluded = await excludedVisits(db)
  const byId = new Map<number, RecordedVisit[]>()
  for (const row of rows) {
    const of = byId.get(row.installationId) ?? []
    byId.set(row.installationId, of)
    of.push({
      id: row.visitId ?? String(row.id),
      at: row.at.getTime(),
      asFound: row.asFound,
      asLeft: row.asLeft,
      uncertainty: row.uncertainty,
      adjusted: row.adjusted,
      excluded: (row.visitId && excluded.get(row.visitId)) || null,
    })
  }
  return byId
}

/** Visits that are excluded now, with the reason. */
async function excludedVisits(db: Database): Promise<Map<string, string>> {
  const rows = await db.select().from(exclusions).orderBy(desc(exclusions.id))
  const newest = new Map<string, (typeof rows)[number]>()
  for (const row of rows) if (!newest.has(row.visitId)) newest.set(row.visitId, row)
  return new Map([...newest.values()].filter((r) => r.excluded).map((r) => [r.visitId, r.reason]))
}

/** By installation: instants after which a sensor is another one, and what asks for a check. */
async function eventsOf(db: Database, ids: number[]) {
  const changes = new Map<number, number[]>()
  const asking = new Map<number, SensorForecast['happened']>()
  if (ids.length === 0) return { changes, asking }
  const rows = await db.select().from(events).where(inArray(events.installationId, ids)).orderBy(asc(events.at))
  const add = <T>(to: Map<number, T[]>, id: number, value: T) => to.set(id, [...(to.get(id) ?? []), value])
  for (const { installationId, kind, at, byHand } of rows) {
    const known = sensorEvent(kind)
    if (known?.cuts) add(changes, installationId, at.getTime())
    // What the product notes by itself says by other ways what is to be done.
    if (kind === TAKEN_ON.kind) add(asking, installationId, { at: at.getTime(), what: TAKEN_ON.label })
    if (known?.asks && byHand) add(asking, installationId, { at: at.getTime(), what: known.label })
  }
  return { changes, asking }
}
