import { tz } from '@date-fns/tz'
import type { BinView, SeriesView } from '@frustum/contract'
import {
  type Bin,
  binned,
  binWidth,
  DAY_MS,
  deviationOf,
  EMPTY_ROLL_UP,
  isOfWater,
  modelOf,
  ordinaryDay,
  procedureOf,
  type RollUp,
  rollUpOf,
  sensorEvent,
  together,
} from '@frustum/core'
import { getHours } from 'date-fns'
import { and, asc, between, eq, inArray, sql } from 'drizzle-orm'
import { alarmsBetween } from '../alarms/alarmStore.ts'
import type { Database } from '../database/open.ts'
import { events, installations, rollUps, sites, visits } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { type Reading, readingsBetween, rollUpsBetween } from '../readings/readingStore.ts'
import { installedAt, installedSensors } from '../sensors.ts'
import { areTwins, processShown, shownError } from '../shown.ts'

const HOUR_MS = 3_600_000
/** Of how many days what is usual is seen. */
const ORDINARY_DAYS = 30
const MOST_BINS = 4000
const LONGEST_MS = 40 * 366 * DAY_MS

/** From when to when, in how many bins at most. */
export interface Span {
  from: number
  to: number
  most: number
}

/** Reads a span from an address. @throws Problem where it is none */
export function spanOf(query: Record<string, unknown>, now: number): Span {
  const number = (name: string, usual: number) => (query[name] === undefined ? usual : Number(query[name]))
  const to = number('to', now)
  const span = { from: number('from', to - DAY_MS), to, most: number('most', 600) }
  const isRight = span.to > span.from && span.to - span.from <= LONGEST_MS && span.most >= 1 && span.most <= MOST_BINS
  if (isRight && Math.abs(span.from) < 8e15 && Math.abs(span.to) < 8e15) return span
  throw new Problem(400, 'invalid', 'That is no span of time.', { hint: 'Begin with the last day.' })
}

/** What the sensors at a position read in a span of time, whichever they were. */
export async function seriesOf(db: Database, code: string, { from, to, most }: Span, now: number): Promise<SeriesView> {
  const installed = await installedAt(db, code)
  const { position, device } = installed
  const stays = await db.select().from(installations).where(eq(installations.positionId, position.id))
  const ids = stays.map((stay) => stay.id)
  const width = binWidth(to - from, most)
  const bins = (await binsOf(db, ids, { from, to }, width)).filter((bin) => bin.at + width > from && bin.at <= to)
  const raw = to - from <= 7 * DAY_MS ? await readingsBetween(db, ids, { from, to }) : []
  const model = modelOf(position.kind)
  const { unit, decimals } = model.shownScale(device.setting)
  return {
    position: position.code,
    quantity: model.quantity(device.setting),
    unit,
    decimals,
    from,
    to,
    binMs: width,
    bins: bins.flatMap(binView),
    otherwise: otherwise(raw),
    whole: wholeOf(bins),
    known: await knownOf(db, ids),
    process: processShown(installed),
    limits: position.limits,
    range: model.shownRange(device.setting),
    // Of errors that count in percent, what that is of its usual value.
    tolerance: shownError(installed, position.tolerance),
    twins: (await installedSensors(db)).filter((i) => areTwins(i, installed)).map((i) => i.position.code),
    alarms: await alarmsBetween(db, position.id, { from, to }),
    ordinary: await ordinaryOf(db, ids, now),
    ...(await happened(db, ids, { from, to })),
  }
}

export async function binsOf(
  db: Database,
  ids: readonly number[],
  span: { from: number; to: number },
  width: number,
): Promise<Bin[]> {
  if (width >= HOUR_MS) {
    const hours = width % DAY_MS === 0 ? 24 : 1
    return binned(await rollUpsBetween(db, ids, { ...span, hours }), width)
  }
  const all = await readingsBetween(db, ids, span)
  return binned(
    all.map(({ at, shown, state, temperature }) => ({ at, rollUp: rollUpOf([{ value: shown, state }]), temperature })),
    width,
  )
}

export function binView(bin: Bin): BinView[] {
  const { at, good, min, max, mean, temperature } = bin
  if (min === null || max === null || mean === null) return []
  return [{ at, good, min, max, mean, deviation: deviationOf(bin), temperature }]
}

function wholeOf(bins: readonly Bin[]): SeriesView['whole'] {
  const whole = bins.reduce<RollUp>((sum, bin) => together(sum, bin), EMPTY_ROLL_UP)
  const { good, min, max, mean } = whole
  return min === null || max === null || mean === null ? null : { good, min, max, mean, deviation: deviationOf(whole) }
}

/** Stretches of readings that were of something else than the water. */
function otherwise(all: readonly Reading[]): SeriesView['otherwise'] {
  const stretches: SeriesView['otherwise'] = []
  let open: SeriesView['otherwise'][number] | null = null
  for (const { at, state } of all) {
    if (open) open.to = at
    if (open && open.state === state) continue
    open = isOfWater(state) ? null : { from: at, to: at, state }
    if (open) stretches.push(open)
  }
  return stretches
}

async function knownOf(db: Database, ids: readonly number[]): Promise<SeriesView['known']> {
  if (ids.length === 0) return null
  const [rolled] = await db
    .select({ from: sql<number | null>`min(${rollUps.start})`, to: sql<number | null>`max(${rollUps.start})` })
    .from(rollUps)
    .where(and(inArray(rollUps.installationId, [...ids]), eq(rollUps.hours, 1)))
  if (!rolled || rolled.from === null || rolled.to === null) return null
  return { from: rolled.from * HOUR_MS, to: (rolled.to + 1) * HOUR_MS }
}

async function ordinaryOf(db: Database, ids: readonly number[], now: number): Promise<SeriesView['ordinary']> {
  const [site] = await db.select({ timeZone: sites.timeZone }).from(sites)
  const zone = tz(site?.timeZone ?? 'UTC')
  const hours = await rollUpsBetween(db, ids, { from: now - ORDINARY_DAYS * DAY_MS, to: now, hours: 1 })
  return ordinaryDay(hours, (at) => getHours(at, { in: zone }))
}

async function happened(db: Database, ids: readonly number[], { from, to }: { from: number; to: number }) {
  const [begin, end] = [new Date(from), new Date(to)]
  const ofIds = [...ids]
  const visited = await db
    .select({ id: visits.id, at: visits.startedAt, procedure: visits.procedure })
    .from(visits)
    .where(and(inArray(visits.installationId, ofIds), between(visits.startedAt, begin, end)))
    .orderBy(asc(visits.startedAt))
  const noted = await db
    .select({ at: events.at, kind: events.kind, note: events.note })
    .from(events)
    .where(and(inArray(events.installationId, ofIds), between(events.at, begin, end)))
    .orderBy(asc(events.at))
  return {
    visits: visited.map(({ id, at, procedure }) => ({ id, at: at.getTime(), name: procedureOf(procedure).name })),
    events: noted.map(({ at, kind, note }) => ({ at: at.getTime(), label: note || sensorEvent(kind)?.label || kind })),
  }
}
