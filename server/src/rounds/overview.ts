import type { AlarmView, EmptyPosition, FrustumView, RoundsRow, RoundsView, UnfitSensor } from '@frustum/contract'
import {
  type ConePoint,
  DAY_MS,
  type DriftObservation,
  daysWithinTolerance,
  FARTHEST_DAYS,
  forecastCone,
  kindOf,
  type LeadingFact,
  leadingFact,
  modelOf,
  probabilityInTolerance,
  type SensorState,
  sensorState,
  stateWith,
} from '@frustum/core'
import { computedSensors } from '../ageing/computed.ts'
import { nextDateOf, outsideAt, type SensorForecast } from '../ageing/forecasts.ts'
import type { SensorHealth } from '../ageing/health.ts'
import { alarmViews } from '../alarms/alarmViews.ts'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { isLinked } from '../devices/links.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { latestReading } from '../readings/readingStore.ts'
import { policyOf } from '../sensorPolicy.ts'
import { emptyPositions, type Installed, installedSensors } from '../sensors.ts'
import { openTrips } from '../trips/trips.ts'
import { visitsUnderWay } from '../visits/underWay.ts'
import { checkNow } from './checkNow.ts'
import { disagreeingPairs, withDisagreement } from './disagreement.ts'
import { beginsWithCheck, mayBeRight } from './usualProcedure.ts'

const SHOWN_VISITS = 3
/** A cone for a row of a table, and for a page. */
const FEW_STEPS = 14
export const MANY_STEPS = 48

const HOUR = 3_600_000

/** A cone is asked for with every look at Rounds and changes with a visit or by the hour; rounded to what a screen shows. */
function coneOf(
  db: Database,
  installed: Installed,
  { forecast, alone, changes }: SensorForecast,
  { until, steps }: { until: number; steps: number },
): ConePoint[] {
  const { tolerance } = installed.position
  const restsOn = [forecast, tolerance, Math.floor(until / HOUR), ...changes.map((c) => c.at)]
  return derived(db, `cone of ${installed.installation.id} in ${steps}`, restsOn, () => {
    const digits = (v: number) => Number(v.toPrecision(5))
    // Up to where its twin was looked at it is what its own visits said.
    const before = forecast === alone ? [] : forecastCone(alone, tolerance, forecast.from, FEW_STEPS, changes)
    return [...before, ...forecastCone(forecast, tolerance, until, steps, changes)].map((p) => ({
      at: Math.round(p.at),
      mean: digits(p.mean),
      low: digits(p.low),
      lower: digits(p.lower),
      upper: digits(p.upper),
      high: digits(p.high),
      probabilityInTolerance: digits(p.probabilityInTolerance),
    }))
  })
}

export function figureOf(
  db: Database,
  installed: Installed,
  known: SensorForecast,
  { now, steps = FEW_STEPS }: { now: number; steps?: number },
): FrustumView {
  const { forecast, observations, hours } = known
  const policy = policyOf(installed.position, hours)
  const next = nextDateOf(known, policy)
  // A sensor that is left alone for years would squeeze its cone flat: the newest visits are enough to see where it is.
  const lastAdjusted = observations.findLastIndex((o) => o.adjusted)
  const start = Math.max(0, lastAdjusted, observations.length - SHOWN_VISITS)
  return {
    cone: coneOf(db, installed, known, { until: Math.max(next.at, now), steps }),
    from: forecast.from,
    outside: outsideAt(known, policy.tolerance, now),
    policy,
    next,
    startsAt: (observations[start] as DriftObservation).at,
    dots: observations.slice(start).map((o) => ({ at: o.at, error: o.asLeft, uncertainty: o.uncertainty })),
  }
}

/** How far ahead the risk looks that Rounds are ordered by: what can wait a week can wait. */
const RISK_DAYS = 7

/** All sensors, on top the one where a wrong reading is likeliest to do harm; and what else waits for hands. */
export async function overview(db: Database, live: LiveValues, now: number): Promise<Omit<RoundsView, 'toDo'>> {
  const { fit } = await computedSensors(db, now)
  const { rows, disagreeing } = withDisagreement(
    await rowsOf(db, live, fit, now),
    disagreeingPairs(await installedSensors(db), live),
  )
  // A date that a rule has set is due whatever the drift says.
  const due = (row: RoundsRow) => Number(['out', 'overdue', 'due'].includes(row.driftState))
  return {
    rows: rows.toSorted((a, b) => due(b) - due(a) || b.risk - a.risk || a.figure.next.at - b.figure.next.at),
    checkNow: await checkNow(db, fit, rows, now),
    empty: await emptyRows(db),
    trips: await openTrips(db),
    disagreeing,
    unfit: await unfitRows(db, now),
  }
}

/** Rows of those that can be computed. */
export async function rowsOf(
  db: Database,
  live: LiveValues,
  installed: readonly Installed[],
  now: number,
): Promise<RoundsRow[]> {
  const [{ fit, forecasts, healths }, open] = await Promise.all([computedSensors(db, now), openVisits(db)])
  const computed = new Set(fit.map((i) => i.installation.id))
  const typed = await typedReadings(db, installed)
  const alarms = await activeAlarms(db, now)
  return installed
    .filter((i) => computed.has(i.installation.id))
    .map((i) => {
      const { id } = i.installation
      const known = { forecast: forecasts.get(id) as SensorForecast, health: healths.get(id) }
      return rowOf(db, i, known, {
        visit: open.get(id) ?? null,
        typed: typed.get(id) ?? null,
        alarm: alarms.get(i.position.code) ?? null,
        live,
        now,
      })
    })
}

/** The gravest active alarm of each position that speaks of its readings; that there are none is a state of its own. */
async function activeAlarms(db: Database, now: number): Promise<Map<string, AlarmView>> {
  const active = (await alarmViews(db, now)).filter((a) => a.returnedAt === null && !a.shelved && !a.isOfConnection)
  return new Map(active.toReversed().flatMap((a) => (a.position === null ? [] : [[a.position, a] as const])))
}

/** What was last read of displays that are read by eye. */
async function typedReadings(db: Database, installed: readonly Installed[]): Promise<Map<number, RoundsRow['typed']>> {
  const byEye = installed.filter((i) => !isLinked(i)).map((i) => i.installation.id)
  const read = await Promise.all(byEye.map((id) => latestReading(db, id)))
  return new Map(
    byEye.map((id, k) => {
      const last = read[k]
      return [id, last?.shown == null ? null : { at: last.at, value: last.shown }]
    }),
  )
}

type OpenVisit = NonNullable<RoundsRow['openVisit']>

/** The open visit of each installation, with the step at which it stands. */
async function openVisits(db: Database): Promise<Map<number, OpenVisit>> {
  const underWay = await visitsUnderWay(db)
  return new Map(
    underWay.map(({ row, current }) => [
      row.installationId,
      {
        id: row.id,
        operator: row.holderName ?? row.operator,
        since: row.startedAt.getTime(),
        step: current?.short ?? '',
        pending: current?.pending === true,
      },
    ]),
  )
}

function rowOf(
  db: Database,
  installed: Installed,
  { forecast: known, health }: { forecast: SensorForecast; health: SensorHealth | undefined },
  {
    visit,
    typed,
    alarm,
    live,
    now,
  }: {
    visit: OpenVisit | null
    typed: RoundsRow['typed']
    alarm: AlarmView | null
    live: LiveValues
    now: number
  },
): RoundsRow {
  const { position, place, device } = installed
  const model = modelOf(position.kind)
  const figure = figureOf(db, installed, known, { now })
  const { lead, driftState } = stateOf(known, figure, health, now)
  const ahead = Math.max(0, (now - figure.from) / DAY_MS) + RISK_DAYS
  const value = live.current(position.code)
  const blind = value.blindSince !== null && driftState !== 'out' && driftState !== 'overdue'
  return {
    position: position.code,
    place: place.name,
    spot: position.spot,
    kind: position.kind,
    quantity: model.quantity(device.setting),
    scale: model.shownScale(device.setting),
    // A sample whose result is awaited leaves the sensor at work.
    state: visit && !visit.pending ? 'resting' : blind ? 'blind' : alarm && driftState !== 'out' ? 'alarm' : driftState,
    alarm: alarm?.sentence ?? null,
    differs: null,
    driftState,
    reason: figure.next.reason,
    lead,
    figure,
    outSince: driftState === 'out' ? outSince(known, position.tolerance) : null,
    risk: position.consequence * (1 - probabilityInTolerance(known.forecast, ahead, position.tolerance)),
    consequence: position.consequence,
    linked: isLinked({ position, device }),
    verb: device.setting.factoryCell
      ? 'Test'
      : kindOf(position.kind).verb === 'Sample'
        ? 'Sample'
        : beginsWithCheck(position.checkFirst, mayBeRight(driftState, figure.next))
          ? 'Check'
          : 'Calibrate',
    openVisit: visit,
    live: value,
    typed,
  }
}

/** The state of a sensor by its forecast and its health, and what comes before its next date. */
export function stateOf(
  { forecast }: SensorForecast,
  { policy, next }: Pick<FrustumView, 'policy' | 'next'>,
  health: SensorHealth | undefined,
  now: number,
): { lead: LeadingFact | null; driftState: SensorState } {
  const first = health?.diagnosis.tooLittle ? undefined : health?.diagnosis.ranked[0]
  const cause = first && first.cause !== 'nothing' ? first : null
  const lead = leadingFact(forecast, policy, next, { cause, end: health?.end ?? null })
  return { lead, driftState: stateWith(sensorState(forecast, policy, next, now), lead) }
}

/** By its drift, or by what its device did to its numbers. */
function outSince({ forecast, alone, changes }: SensorForecast, tolerance: number): number {
  const leaves = (about: number, by = forecast) =>
    by.from + daysWithinTolerance(by, tolerance, 0.5, FARTHEST_DAYS, about) * DAY_MS
  const [first] = changes
  if (!first) return leaves(0) === forecast.from ? Math.min(forecast.from, leaves(0, alone)) : leaves(0)
  const byDrift = leaves(changes.reduce((sum, c) => sum + c.shift, 0))
  return byDrift < first.at ? byDrift : Math.max(leaves(0), first.at)
}

const emptyRows = (db: Database): Promise<EmptyPosition[]> =>
  derived(db, 'empty positions', [db.$client.writes], () => readEmptyRows(db))

async function readEmptyRows(db: Database): Promise<EmptyPosition[]> {
  return (await emptyPositions(db)).map(({ position, place, removedAt, device }) => ({
    position: position.code,
    place: place.name,
    spot: position.spot,
    quantity: modelOf(position.kind).quantity(device.setting),
    since: removedAt?.getTime() ?? null,
  }))
}

/** Sensors of which something cannot be computed, with the way to set it right. */
export async function unfitRows(db: Database, now: number): Promise<UnfitSensor[]> {
  return (await computedSensors(db, now)).unfit.map(({ installed: { position, place, device }, why }) => ({
    position: position.code,
    positionId: position.id,
    place: place.name,
    spot: position.spot,
    quantity: modelOf(position.kind).quantity(device.setting),
    why,
  }))
}
