import type { Keeping } from '@frustum/contract'
import { READING_STATES, type ReadingState, type RollUp, rollUpOf, together } from '@frustum/core'
import { and, asc, desc, eq, gte, inArray, lt, lte, max, ne, type SQL, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { installations, readingHours, readings, rollUps } from '../database/schema.ts'
import { keptSince } from './keeping.ts'

/** Readings between visits: kept as they come, packed by the hour, rolled up by hour and day. */

const HOUR_MS = 3_600_000
const DAY_HOURS = 24
/** Digits that a packed number keeps. */
const PACKED_DIGITS = 7

export interface Reading {
  /** Epoch ms. */
  at: number
  shown: number | null
  signal: number | null
  temperature: number | null
  state: ReadingState
}

export const hourOf = (at: number): number => Math.floor(at / HOUR_MS)

const stateOf = (code: number): ReadingState => READING_STATES[code] ?? 'good'
const codeOf = (state: ReadingState): number => READING_STATES.indexOf(state)
const TAKEN_BACK = codeOf('taken-back')
const unpacked = (value: number | null | undefined): number | null =>
  value === null || value === undefined ? null : Number(value.toPrecision(PACKED_DIGITS))

/** What a single precision number can hold: of a broken device's 1e300, nothing; else its row could not be written. */
function single(value: number | null): number | null {
  if (value === null) return null
  const held = Math.fround(value)
  return held === 0 ? 0 : Number.isFinite(held) ? value : null
}

type PackedHour = typeof readingHours.$inferSelect
type Values = (number | null)[]
/** Hour, times in it, what was shown, signal, temperature, state. */
type PackedRow = [hour: number, at: number[], shown: Values, signal: Values, temperature: Values, state: number[]]

const unpack = ([hour, at, shown, signal, temperature, state]: PackedRow): Reading[] =>
  at.map((ms, i) => ({
    at: hour * HOUR_MS + ms,
    shown: shown[i] ?? null,
    signal: signal[i] ?? null,
    temperature: temperature[i] ?? null,
    state: stateOf(state[i] ?? 0),
  }))

/** An hour of readings, in the order of their times, as a row. */
export const packedHour = (installationId: number, hour: number, all: readonly Reading[]): PackedHour => ({
  installationId,
  hour,
  at: all.map((r) => Math.round(r.at - hour * HOUR_MS)),
  shown: all.map((r) => single(r.shown)),
  signal: all.map((r) => single(r.signal)),
  temperature: all.map((r) => single(r.temperature)),
  state: all.map((r) => codeOf(r.state)),
})

type Rolled = typeof rollUps.$inferInsert

const rolledOf = ({ count, good, min, max, mean, squares }: typeof rollUps.$inferSelect): RollUp => ({
  count,
  good,
  min: unpacked(min),
  max: unpacked(max),
  mean,
  squares,
})

const meanTemperature = (all: readonly { temperature: number | null }[]): number | null => {
  const known = all.flatMap(({ temperature }) => single(temperature) ?? [])
  return known.length === 0 ? null : known.reduce((sum, t) => sum + t, 0) / known.length
}

/** What the readings of an hour come to, as a row. */
export const hourRollUp = (installationId: number, hour: number, all: readonly Reading[]): Rolled => ({
  installationId,
  hours: 1,
  start: hour,
  ...rollUpOf(all.map(({ shown, state }) => ({ value: single(shown), state }))),
  temperature: meanTemperature(all),
})

/**
 * Keeps readings of a sensor, of each stretch of time the first that there is, whatever the order in which they come.
 * Returns how many of them are new.
 * @param apartMs how long such a stretch is; 1 for all of them
 */
export async function keepReadings(
  tx: Transaction,
  installationId: number,
  { all, apartMs }: { all: readonly Reading[]; apartMs: number },
): Promise<number> {
  const byHour = new Map<number, Reading[]>()
  for (const reading of all) {
    const hour = hourOf(reading.at)
    byHour.set(hour, [...(byHour.get(hour) ?? []), reading])
  }
  const hours = [...byHour.keys()]
  if (hours.length === 0) return 0
  const packed = await packedHours(tx, installationId, hours)
  const forgotten = await forgottenHours(
    tx,
    installationId,
    hours.filter((hour) => !packed.has(hour)),
  )
  let fresh = 0
  const changed: Rolled[] = []
  for (const [hour, come] of byHour) {
    const before = packed.get(hour)
    if (forgotten.has(hour)) continue
    const outcome = before
      ? await intoPacked(tx, installationId, { hour, before, come, apartMs })
      : await intoLatest(tx, installationId, { hour, come, apartMs })
    fresh += outcome.fresh
    if (outcome.fresh > 0) changed.push(hourRollUp(installationId, hour, outcome.all))
  }
  await writeRollUps(tx, installationId, changed)
  return fresh
}

/**
 * Those of some hours without packed readings whose readings, or whose day's hours, are kept no longer: what is known of
 * them stays as it is, since a late reading would put itself in the place of all that it can no longer be rolled up with.
 */
export async function forgottenHours(
  tx: Transaction,
  installationId: number,
  hours: readonly number[],
): Promise<Set<number>> {
  if (hours.length === 0) return new Set()
  const rows = await tx
    .select({ hours: rollUps.hours, start: rollUps.start })
    .from(rollUps)
    .where(and(eq(rollUps.installationId, installationId), isOneOf(rollUps.start, hours.flatMap(hoursOfDay))))
  const [ofHours, ofDays] = [1, DAY_HOURS].map((width) => rows.filter((r) => r.hours === width).map((r) => r.start))
  const [rolled, days, daysInHours] = [new Set(ofHours), new Set(ofDays), new Set(ofHours?.map(dayOf))]
  const gone = hours.filter((h) => rolled.has(h) || (days.has(dayOf(h)) && !daysInHours.has(dayOf(h))))
  if (gone.length === 0) return new Set()
  const there = await tx
    .selectDistinct({ hour: sql<number>`floor(extract(epoch from ${readings.at}) / 3600)::int` })
    .from(readings)
    .where(
      and(
        eq(readings.installationId, installationId),
        gte(readings.at, new Date(Math.min(...gone) * HOUR_MS)),
        lt(readings.at, new Date((Math.max(...gone) + 1) * HOUR_MS)),
      ),
    )
  const waiting = new Set(there.map((r) => r.hour))
  return new Set(gone.filter((hour) => !waiting.has(hour)))
}

/** The hour at which its day begins, and all hours of that day. */
const dayOf = (hour: number): number => Math.floor(hour / DAY_HOURS) * DAY_HOURS
const hoursOfDay = (hour: number): number[] => Array.from({ length: DAY_HOURS }, (_, i) => dayOf(hour) + i)

/** As one text: thousands of parameters take longer than what is asked. */
const isOneOf = (column: typeof rollUps.start | typeof readingHours.hour, values: readonly number[]) =>
  sql`${column} = any(${`{${[...new Set(values)].join(',')}}`}::int[])`

interface IntoHour {
  hour: number
  come: readonly Reading[]
  apartMs: number
}

/** Of each stretch the first. */
function firstOfEach(all: readonly Reading[], apartMs: number): Reading[] {
  const first = new Map<number, Reading>()
  for (const reading of all) {
    const stretch = Math.floor(reading.at / apartMs)
    const before = first.get(stretch)
    if (!before || reading.at < before.at) first.set(stretch, reading)
  }
  return [...first.values()].sort((a, b) => a.at - b.at)
}

export async function packedHours(tx: Transaction, installationId: number, hours: readonly number[]) {
  if (hours.length === 0) return new Map<number, Reading[]>()
  const there = and(eq(readingHours.installationId, installationId), isOneOf(readingHours.hour, hours))
  return new Map((await packedRows(tx, there)).map((row) => [row[0], unpack(row)]))
}

/** As one text of JSON: of many rows, most of the time would go into taking them apart one by one. */
async function packedRows(db: Database | Transaction, where: SQL | undefined): Promise<PackedRow[]> {
  const { hour, at, shown, signal, temperature, state } = readingHours
  const [row] = await db
    .select({
      text: sql<
        string | null
      >`json_agg(json_build_array(${hour}, ${at}, ${shown}, ${signal}, ${temperature}, ${state}) order by ${hour})::text`,
    })
    .from(readingHours)
    .where(where)
  return row?.text ? JSON.parse(row.text) : []
}

async function intoPacked(
  tx: Transaction,
  installationId: number,
  { hour, before, come, apartMs }: IntoHour & { before: readonly Reading[] },
) {
  const known = new Set(before.map((r) => r.at))
  const all = firstOfEach([...before, ...come.filter((r) => !known.has(r.at))], apartMs)
  const fresh = all.filter((r) => !known.has(r.at)).length
  if (fresh > 0) await writeHours(tx, [packedHour(installationId, hour, all)])
  return { fresh, all }
}

async function intoLatest(tx: Transaction, installationId: number, { hour, come, apartMs }: IntoHour) {
  const rows = await tx.select().from(readings).where(ofHour(installationId, hour))
  const before = rows.map((row) => ({ ...readingOf(row), id: row.id }))
  const known = new Map(before.map((r) => [r.at, r.id]))
  const all = firstOfEach([...before, ...come.filter((r) => !known.has(r.at))], apartMs)
  const fresh = all.filter((r) => !known.has(r.at))
  const stay = new Set(all.map((r) => r.at))
  const overtaken = before.filter((r) => !stay.has(r.at)).map((r) => r.id)
  if (overtaken.length > 0) await tx.delete(readings).where(inArray(readings.id, overtaken))
  if (fresh.length > 0) {
    await tx.insert(readings).values(
      fresh.map(({ at, shown, signal, temperature, state }) => ({
        installationId,
        at: new Date(at),
        shown,
        signal,
        temperature,
        state: codeOf(state),
      })),
    )
  }
  return { fresh: fresh.length, all }
}

const readingOf = ({ at, shown, signal, temperature, state }: typeof readings.$inferSelect): Reading => ({
  at: at.getTime(),
  shown,
  signal,
  temperature,
  state: stateOf(state),
})

const ofHour = (installationId: number, hour: number) =>
  and(
    eq(readings.installationId, installationId),
    gte(readings.at, new Date(hour * HOUR_MS)),
    lt(readings.at, new Date((hour + 1) * HOUR_MS)),
  )

/** Writes the hours that changed, and the days that they are of. */
export async function writeRollUps(tx: Transaction, installationId: number, hours: readonly Rolled[]): Promise<void> {
  if (hours.length === 0) return
  await upsert(tx, hours)
  const byDay = new Map<number, (typeof rollUps.$inferSelect)[]>()
  for (const { start } of hours) byDay.set(dayOf(start), [])
  const of = await tx
    .select()
    .from(rollUps)
    .where(
      and(
        eq(rollUps.installationId, installationId),
        eq(rollUps.hours, 1),
        isOneOf(rollUps.start, [...byDay.keys()].flatMap(hoursOfDay)),
      ),
    )
    .orderBy(asc(rollUps.start))
  for (const row of of) byDay.get(dayOf(row.start))?.push(row)
  await upsert(
    tx,
    [...byDay].map(([day, rows]) => dayRollUp(installationId, day, rows)),
  )
}

/** What the hours of a day come to, as a row. */
export function dayRollUp(
  installationId: number,
  day: number,
  hours: readonly (Omit<Rolled, 'temperature'> & { temperature?: number | null | undefined })[],
): Rolled {
  const whole = hours
    .map((row) => rolledOf(row as typeof rollUps.$inferSelect))
    .reduce((sum, one) => together(sum, one))
  const temperature = meanTemperature(hours.map((row) => ({ temperature: row.temperature ?? null })))
  return { installationId, hours: DAY_HOURS, start: day, ...whole, temperature }
}

/** Writes roll-ups in place of those that were there. As one text: of many rows, most of the time would go into parameters. */
async function upsert(tx: Transaction, rows: readonly Rolled[]): Promise<void> {
  await tx.execute(sql`
    insert into roll_ups (installation_id, hours, start, count, good, min, max, mean, squares, temperature)
    select * from json_to_recordset(${JSON.stringify(rows)}) as r("installationId" int, hours int2, start int, count int,
      good int, min real, max real, mean float8, squares float8, temperature real)
    on conflict (installation_id, hours, start) do update set count = excluded.count, good = excluded.good,
      min = excluded.min, max = excluded.max, mean = excluded.mean, squares = excluded.squares,
      temperature = excluded.temperature`)
}

/**
 * A reading that was typed says nothing of the water any more. Returns whether there was one that did.
 * @param at epoch ms, as it was kept
 */
export async function takeOut(tx: Transaction, installationId: number, at: number): Promise<boolean> {
  const hour = hourOf(at)
  const packed = (await packedHours(tx, installationId, [hour])).get(hour)
  const all = packed ?? (await tx.select().from(readings).where(ofHour(installationId, hour))).map(readingOf)
  const isIt = (r: Reading) => r.at === at && r.state === 'typed'
  if (!all.some(isIt)) return false
  const without = all.map((r): Reading => (isIt(r) ? { ...r, state: 'taken-back' } : r))
  if (packed) await writeHours(tx, [packedHour(installationId, hour, without)])
  else
    await tx
      .update(readings)
      .set({ state: TAKEN_BACK })
      .where(and(eq(readings.installationId, installationId), eq(readings.at, new Date(at))))
  await writeRollUps(tx, installationId, [hourRollUp(installationId, hour, without)])
  return true
}

/** Writes packed hours in place of those that were there. */
export async function writeHours(tx: Transaction, rows: readonly PackedHour[]): Promise<void> {
  await tx.execute(sql`
    insert into reading_hours (installation_id, hour, at, shown, signal, temperature, state)
    select * from json_to_recordset(${JSON.stringify(rows)}) as r("installationId" int, hour int, at int[], shown real[],
      signal real[], temperature real[], state int2[])
    on conflict (installation_id, hour) do update set at = excluded.at, shown = excluded.shown,
      signal = excluded.signal, temperature = excluded.temperature, state = excluded.state`)
}

/** The readings of a sensor in a span of time, in their order. */
export async function readingsBetween(
  db: Database | Transaction,
  installationIds: readonly number[],
  { from, to }: { from: number; to: number },
): Promise<Reading[]> {
  if (installationIds.length === 0) return []
  const packed = await packedRows(
    db,
    and(
      inArray(readingHours.installationId, [...installationIds]),
      gte(readingHours.hour, hourOf(from)),
      lte(readingHours.hour, hourOf(to)),
    ),
  )
  const latest = await db
    .select()
    .from(readings)
    .where(
      and(
        inArray(readings.installationId, [...installationIds]),
        gte(readings.at, new Date(from)),
        lte(readings.at, new Date(to)),
      ),
    )
    .orderBy(asc(readings.at))
  const within = packed.flatMap(unpack).filter(({ at }) => at >= from && at <= to)
  const all = [...within, ...latest.map(readingOf)]
  return latest.length > 0 && within.length > 0 ? all.sort((a, b) => a.at - b.at) : all
}

/** The newest reading of a sensor that nobody took back; null where there is none. */
export async function latestReading(db: Database, installationId: number): Promise<Reading | null> {
  const [latest] = await db
    .select()
    .from(readings)
    .where(and(eq(readings.installationId, installationId), ne(readings.state, TAKEN_BACK)))
    .orderBy(desc(readings.at))
    .limit(1)
  const newest = db
    .select({ hour: max(readingHours.hour) })
    .from(readingHours)
    .where(and(eq(readingHours.installationId, installationId), sql`${TAKEN_BACK} <> any(${readingHours.state})`))
  const [hour] = await packedRows(
    db,
    and(eq(readingHours.installationId, installationId), eq(readingHours.hour, newest)),
  )
  const packed = hour ? unpack(hour).findLast((r) => r.state !== 'taken-back') : undefined
  const known = latest ? readingOf(latest) : undefined
  if (!known || !packed) return known ?? packed ?? null
  return known.at >= packed.at ? known : packed
}

/** What the hours, or the days, of a span come to. */
export async function rollUpsBetween(
  db: Database,
  installationIds: readonly number[],
  { from, to, hours }: { from: number; to: number; hours: 1 | 24 },
) {
  if (installationIds.length === 0) return []
  const { installationId, start, count, good, min, max, mean, squares, temperature } = rollUps
  // As one text of JSON, as packed hours are.
  const [row] = await db
    .select({
      text: sql<
        string | null
      >`json_agg(json_build_array(${installationId}, ${start}, ${count}, ${good}, ${min}, ${max}, ${mean}, ${squares}, ${temperature}) order by ${start})::text`,
    })
    .from(rollUps)
    .where(
      and(
        inArray(installationId, [...installationIds]),
        eq(rollUps.hours, hours),
        gte(start, hourOf(from) - hours + 1),
        lte(start, hourOf(to)),
      ),
    )
  const rows: RolledRow[] = row?.text ? JSON.parse(row.text) : []
  return rows.map(([id, begin, all, ofWater, low, high, middle, spread, warmth]) => ({
    installationId: id,
    at: begin * HOUR_MS,
    rollUp: { count: all, good: ofWater, min: low, max: high, mean: middle, squares: spread } satisfies RollUp,
    temperature: warmth,
  }))
}

/** Whose, since when, then the roll-up in its order, and the temperature. */
type RolledRow = [
  id: number,
  start: number,
  count: number,
  good: number,
  min: number | null,
  max: number | null,
  mean: number | null,
  squares: number,
  temperature: number | null,
]

/** Hours that are over for so long are packed. */
const PACKED_AFTER_HOURS = 2
/** So many hours of sensors at a time: what an earlier version kept otherwise is packed bit by bit. */
const PACKED_AT_ONCE = 1000

/** Packs what is over, an hour of a sensor in each transaction, so that others have their turn. Returns how many. */
export async function packReadings(db: Database, now: number): Promise<number> {
  const before = new Date((hourOf(now) - PACKED_AFTER_HOURS) * HOUR_MS)
  const all = await db.select({ id: installations.id }).from(installations)
  let packed = 0
  for (const { id } of all) {
    while (packed < PACKED_AT_ONCE) {
      const [oldest] = await db
        .select({ at: readings.at })
        .from(readings)
        .where(and(eq(readings.installationId, id), lt(readings.at, before)))
        .orderBy(asc(readings.at))
        .limit(1)
      if (!oldest) break
      await db.transaction((tx) => packHour(tx, id, hourOf(oldest.at.getTime())))
      packed++
    }
  }
  // What was taken out leaves its room to what comes.
  if (packed > 0) await db.execute(sql`vacuum readings`)
  return packed
}

async function packHour(tx: Transaction, installationId: number, hour: number): Promise<void> {
  const rows = await tx.select().from(readings).where(ofHour(installationId, hour)).orderBy(asc(readings.at))
  const known = (await packedHours(tx, installationId, [hour])).get(hour) ?? []
  const whole = firstOfEach([...known, ...rows.map(readingOf)], 1)
  await writeHours(tx, [packedHour(installationId, hour, whole)])
  await writeRollUps(tx, installationId, [hourRollUp(installationId, hour, whole)])
  await tx.delete(readings).where(ofHour(installationId, hour))
}

/** Forgets readings and hours that are older than they are kept; what the next coarser ones say of them stays. */
export async function forgetReadings(db: Database, now: number, keeping: Keeping): Promise<void> {
  const since = keptSince(now, keeping)
  if (Number.isFinite(since.readings)) {
    // Late ones that are not packed yet, too.
    await db.delete(readings).where(lt(readings.at, new Date(since.readings * HOUR_MS)))
    await db.delete(readingHours).where(lt(readingHours.hour, since.readings))
  }
  if (Number.isFinite(since.hours))
    await db.delete(rollUps).where(and(eq(rollUps.hours, 1), lt(rollUps.start, since.hours)))
}

/** Gives the readings of one stay of a sensor to another, which turned out to be the same. */
export async function moveReadings(tx: Transaction, from: number, to: number): Promise<void> {
  const hours = await packedRows(tx, eq(readingHours.installationId, from))
  const latest = await tx.select().from(readings).where(eq(readings.installationId, from))
  const all = [...hours.flatMap(unpack), ...latest.map(readingOf)]
  await tx.delete(readings).where(eq(readings.installationId, from))
  await tx.delete(readingHours).where(eq(readingHours.installationId, from))
  await tx.delete(rollUps).where(eq(rollUps.installationId, from))
  await keepReadings(tx, to, { all, apartMs: 1 })
}
