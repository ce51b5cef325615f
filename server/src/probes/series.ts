import type { BinView, SeriesView, TypedView } from '@frustum/contract'
import {
  type Bin,
  binned,
  binWidth,
  DAY_MS,
  deviationOf,
  isOfWater,
  modelOf,
  ordinaryDay,
  procedureOf,
  rollUpOf,
  sensorEvent,
  summaryOf,
} from '@frustum/core'
import { and, asc, between, desc, eq, gte, inArray, isNull, lte, or } from 'drizzle-orm'
import { alarmsBetween } from '../alarms/alarmStore.ts'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { events, holds, installations, rollUps, sites, takenBack, visits } from '../database/schema.ts'
import type { Span } from '../http/span.ts'
import { keepingOf, keptSince } from '../readings/keeping.ts'
import { type Reading, readingsBetween, rollUpsBetween } from '../readings/readingStore.ts'
import { installedAt, installedSensors } from '../sensors.ts'
import { areTwins, processShown, shownError } from '../shown.ts'
import { hourIn } from '../zone.ts'
import { correctedBins, foundErrors } from './past.ts'

const HOUR_MS = 3_600_000
/** Of how many days what is usual is seen. */
const ORDINARY_DAYS = 30

/** What holds for any span: the sensor and its stays, its twins, the errors found, and how far its readings go. */
const standingOf = (db: Database, code: string) =>
  derived(db, `series of ${code}`, [db.$client.writes], async () => {
    const installed = await installedAt(db, code)
    const stays = await db
      .select({ id: installations.id })
      .from(installations)
      .where(eq(installations.positionId, installed.position.id))
    const ids = stays.map((stay) => stay.id)
    const all = await installedSensors(db)
    return {
      installed,
      ids,
      twins: all.filter((i) => areTwins(i, installed)).map((i) => i.position.code),
      errors: await foundErrors(db, installed, ids),
      known: await knownOf(db, ids),
      keeping: await keepingOf(db),
    }
  })

/** What the sensors at a position read in a span of time, whichever they were. */
export async function seriesOf(db: Database, code: string, span: Span, now: number): Promise<SeriesView> {
  const { from, to, most } = span
  const { installed, ids, twins, errors, known, keeping } = await standingOf(db, code)
  const { position, device } = installed
  const width = binWidth(to - from, most)
  const [binsAbout, raw, alarms, held, ordinary, ofVisits, struck] = await Promise.all([
    binsOf(db, ids, { from, to, width, since: keptSince(now, keeping) }),
    to - from <= 7 * DAY_MS ? readingsBetween(db, ids, { from, to }) : [],
    alarmsBetween(db, position.id, { from, to }),
    holdsBetween(db, position.id, { from, to }),
    span.ordinary ? ordinaryOf(db, ids, now) : [],
    happened(db, ids, { from, to }),
    takenBackBetween(db, ids, { from, to }),
  ])
  const bins = binsAbout.filter((bin) => bin.at + width > from && bin.at <= to)
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
    typed: typedOf(raw, struck),
    whole: summaryOf(bins),
    known,
    process: processShown(installed),
    limits: position.limits,
    range: model.shownRange(device.setting),
    // Of errors that count in percent, what that is of its usual value.
    tolerance: shownError(installed, position.tolerance),
    twins,
    alarms,
    ordinary,
    corrected: correctedBins(installed, errors, { bins, width }),
    holds: held,
    ...ofVisits,
  }
}

/** Readings of a span in bins; what is kept in hours or days only comes into those in the middle of them. */
export async function binsOf(
  db: Database,
  ids: readonly number[],
  { from, to, width, since }: { from: number; to: number; width: number; since: ReturnType<typeof keptSince> },
): Promise<Bin[]> {
  const within = (begin: number, end: number) => ({ from: Math.max(from, begin), to: Math.min(to, end - 1) })
  const inHours = width % DAY_MS === 0 ? Number.POSITIVE_INFINITY : since.hours * HOUR_MS
  const oneByOne = width >= HOUR_MS ? Number.POSITIVE_INFINITY : since.readings * HOUR_MS
  const rolled = async (span: { from: number; to: number }, of: 1 | 24) => {
    if (span.to <= span.from) return []
    const middle = Math.max(0, (of * HOUR_MS - width) / 2)
    return (await rollUpsBetween(db, ids, { ...span, hours: of })).map((r) => ({ ...r, at: r.at + middle }))
  }
  const all = [
    ...(await rolled(within(from, inHours), 24)),
    ...(await rolled(within(inHours, oneByOne), 1)),
    ...(await readBetween(db, ids, within(oneByOne, Number.POSITIVE_INFINITY))),
  ]
  return binned(all, width)
}

async function readBetween(db: Database, ids: readonly number[], span: { from: number; to: number }) {
  if (span.to <= span.from) return []
  const all = await readingsBetween(db, ids, span)
  return all.map(({ at, shown, state, temperature }) => ({
    at,
    rollUp: rollUpOf([{ value: shown, state }]),
    temperature,
  }))
}

export function binView(bin: Bin): BinView[] {
  const { at, good, min, max, mean, temperature } = bin
  if (min === null || max === null || mean === null) return []
  return [{ at, good, min, max, mean, deviation: deviationOf(bin), temperature }]
}

/** Stretches of readings that were of something else than the water. */
function otherwise(all: readonly Reading[]): SeriesView['otherwise'] {
  const stretches: SeriesView['otherwise'] = []
  let open: SeriesView['otherwise'][number] | null = null
  for (const { at, state } of all) {
    // A slip of the finger is no stretch of time.
    if (state === 'taken-back') continue
    if (open) open.to = at
    if (open && open.state === state) continue
    open = isOfWater(state) ? null : { from: at, to: at, state }
    if (open) stretches.push(open)
  }
  return stretches
}

/** So many typed readings are shown one by one. */
const MOST_TYPED = 8

function typedOf(all: readonly Reading[], struck: ReadonlyMap<number, TypedView['takenBack']>): TypedView[] {
  return all
    .flatMap(({ at, shown, state }) =>
      shown !== null && (state === 'typed' || state === 'taken-back')
        ? [{ at, value: shown, takenBack: struck.get(at) ?? null }]
        : [],
    )
    .slice(-MOST_TYPED)
    .reverse()
}

/** By when they are said to have been read. */
async function takenBackBetween(db: Database, ids: readonly number[], { from, to }: { from: number; to: number }) {
  const rows = await db
    .select()
    .from(takenBack)
    .where(and(inArray(takenBack.installationId, [...ids]), between(takenBack.readAt, new Date(from), new Date(to))))
  return new Map(
    rows.map(({ readAt, at, operator: by, reason }) => [readAt.getTime(), { at: at.getTime(), by, reason }]),
  )
}

async function knownOf(db: Database, ids: readonly number[]): Promise<SeriesView['known']> {
  // Of each stay by itself: so that an index has them, and ten years of hours are not looked through.
  const ends = await Promise.all(
    ids.flatMap((id) =>
      [asc, desc].map((order) =>
        db
          .select({ start: rollUps.start })
          .from(rollUps)
          .where(and(eq(rollUps.installationId, id), eq(rollUps.hours, 1)))
          .orderBy(order(rollUps.start))
          .limit(1),
      ),
    ),
  )
  const starts = ends.flat().map(({ start }) => start)
  if (starts.length === 0) return null
  return { from: Math.min(...starts) * HOUR_MS, to: (Math.max(...starts) + 1) * HOUR_MS }
}

async function ordinaryOf(db: Database, ids: readonly number[], now: number): Promise<SeriesView['ordinary']> {
  const [site] = await db.select({ timeZone: sites.timeZone }).from(sites)
  const hours = await rollUpsBetween(db, ids, { from: now - ORDINARY_DAYS * DAY_MS, to: now, hours: 1 })
  return ordinaryDay(hours, hourIn(site?.timeZone ?? 'UTC'))
}

async function holdsBetween(
  db: Database,
  positionId: number,
  { from, to }: { from: number; to: number },
): Promise<SeriesView['holds']> {
  const rows = await db
    .select({ from: holds.heldAt, to: holds.releasedAt })
    .from(holds)
    .where(
      and(
        eq(holds.positionId, positionId),
        lte(holds.heldAt, new Date(to)),
        or(isNull(holds.releasedAt), gte(holds.releasedAt, new Date(from))),
      ),
    )
    .orderBy(asc(holds.heldAt))
  return rows.map((hold) => ({ from: hold.from.getTime(), to: hold.to?.getTime() ?? null }))
}

async function happened(db: Database, ids: readonly number[], { from, to }: { from: number; to: number }) {
  const [begin, end] = [new Date(from), new Date(to)]
  const ofIds = [...ids]
  const visited = await db
    .select({ id: visits.id, at: visits.startedAt, to: visits.closedAt, procedure: visits.procedure })
    .from(visits)
    .where(and(inArray(visits.installationId, ofIds), between(visits.startedAt, begin, end)))
    .orderBy(asc(visits.startedAt))
  const noted = await db
    .select({ at: events.at, kind: events.kind, note: events.note })
    .from(events)
    .where(and(inArray(events.installationId, ofIds), between(events.at, begin, end)))
    .orderBy(asc(events.at))
  return {
    visits: visited.map(({ id, at, to: closed, procedure }) => ({
      id,
      at: at.getTime(),
      to: closed?.getTime() ?? null,
      name: procedureOf(procedure).name,
    })),
    events: noted.map(({ at, kind, note }) => ({ at: at.getTime(), label: note || sensorEvent(kind)?.label || kind })),
  }
}
