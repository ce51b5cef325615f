import { READING_STATES, type ReadingState, type RollUp, rollUpOf, together } from '@frustum/core'
import { and, asc, desc, eq, gte, inArray, lt, lte, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { installations, readingHours, readings, rollUps } from '../database/schema.ts'

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
const unpacked = (value: number | null | undefined): number | null =>
  value === null || value === undefined ? null : Number(value.toPrecision(PACKED_DIGITS))

type PackedHour = typeof readingHours.$inferSelect

const unpack = ({ hour, at, shown, signal, temperature, state }: PackedHour): Reading[] =>
  at.map((ms, i) => ({
    at: hour * HOUR_MS + ms,
    shown: unpacked(shown[i]),
    signal: unpacked(signal[i]),
    temperature: unpacked(temperature[i]),
    state: stateOf(state[i] ?? 0),
  }))

/** An hour of readings, in the order of their times, as a row. */
export const packedHour = (installationId: number, hour: number, all: readonly Reading[]): PackedHour => ({
  installationId,
  hour,
  at: all.map((r) => Math.round(r.at - hour * HOUR_MS)),
  shown: all.map((r) => r.shown),
  signal: all.map((r) => r.signal),
  temperature: all.map((r) => r.temperature),
  state: all.map((r) => codeOf(r.state)),
})

type Rolled = typeof rollUps.$inferInsert

const rolledOf = ({ hours, start, count, good, min, max, mean, squares }: typeof rollUps.$inferSelect) => ({
  hours,
  start,
  rollUp: { count, good, min: unpacked(min), max: unpacked(max), mean, squares } satisfies RollUp,
})

const meanTemperature = (all: readonly { temperature: number | null }[]): number | null => {
  const known = all.flatMap(({ temperature }) => temperature ?? [])
  return known.length === 0 ? null : known.reduce((sum, t) => sum + t, 0) / known.length
}

/** What the readings of an hour come to, as a row. */
export const hourRollUp = (installationId: number, hour: number, all: readonly Reading[]): Rolled => ({
  installationId,
  hours: 1,
  start: hour,
  ...rollUpOf(all.map(({ shown, state }) => ({ value: shown, state }))),
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
  let fresh = 0
  const changed: Rolled[] = []
  for (const [hour, come] of byHour) {
    const before = packed.get(hour)
    const outcome = before
      ? await intoPacked(tx, installationId, { hour, before, come, apartMs })
      : await intoLatest(tx, installationId, { hour, come, apartMs })
    fresh += outcome.fresh
    if (outcome.fresh > 0) changed.push(hourRollUp(installationId, hour, outcome.all))
  }
  await writeRollUps(tx, installationId, changed)
  return fresh
}

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
  const rows: PackedHour[] = []
  for (let i = 0; i < hours.length; i += 1000) {
    rows.push(
      ...(await tx
        .select()
        .from(readingHours)
        .where(
          and(eq(readingHours.installationId, installationId), inArray(readingHours.hour, hours.slice(i, i + 1000))),
        )),
    )
  }
  return new Map(rows.map((row) => [row.hour, unpack(row)]))
}

async function intoPacked(
  tx: Transaction,
  installationId: number,
  { hour, before, come, apartMs }: IntoHour & { before: readonly Reading[] },
) {
  const known = new Set(before.map((r) => r.at))
  const all = firstOfEach([...before, ...come.filter((r) => !known.has(r.at))], apartMs)
  const fresh = all.filter((r) => !known.has(r.at)).length
  if (fresh > 0) {
    const { at, shown, signal, temperature, state } = packedHour(installationId, hour, all)
    await tx
      .update(readingHours)
      .set({ at, shown, signal, temperature, state })
      .where(and(eq(readingHours.installationId, installationId), eq(readingHours.hour, hour)))
  }
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
  const days = [...new Set(hours.map(({ start }) => Math.floor(start / DAY_HOURS) * DAY_HOURS))]
  const rows: Rolled[] = []
  for (const day of days) {
    const of = await tx
      .select()
      .from(rollUps)
      .where(
        and(
          eq(rollUps.installationId, installationId),
          eq(rollUps.hours, 1),
          gte(rollUps.start, day),
          lt(rollUps.start, day + DAY_HOURS),
        ),
      )
    rows.push(dayRollUp(installationId, day, of))
  }
  await upsert(tx, rows)
}

/** What the hours of a day come to, as a row. */
export function dayRollUp(
  installationId: number,
  day: number,
  hours: readonly (Omit<Rolled, 'temperature'> & { temperature?: number | null | undefined })[],
): Rolled {
  const whole = hours
    .map((row) => rolledOf(row as typeof rollUps.$inferSelect).rollUp)
    .reduce((sum, one) => together(sum, one))
  const temperature = meanTemperature(hours.map((row) => ({ temperature: row.temperature ?? null })))
  return { installationId, hours: DAY_HOURS, start: day, ...whole, temperature }
}

async function upsert(tx: Transaction, rows: readonly Rolled[]): Promise<void> {
  const newest = (name: string) => sql.raw(`excluded.${name}`)
  for (let i = 0; i < rows.length; i += 1000) {
    await tx
      .insert(rollUps)
      .values(rows.slice(i, i + 1000))
      .onConflictDoUpdate({
        target: [rollUps.installationId, rollUps.hours, rollUps.start],
        set: {
          count: newest('count'),
          good: newest('good'),
          min: newest('min'),
          max: newest('max'),
          mean: newest('mean'),
          squares: newest('squares'),
          temperature: newest('temperature'),
        },
      })
  }
}

/** The readings of a sensor in a span of time, in their order. */
export async function readingsBetween(
  db: Database | Transaction,
  installationIds: readonly number[],
  { from, to }: { from: number; to: number },
): Promise<Reading[]> {
  if (installationIds.length === 0) return []
  const packed = await db
    .select()
    .from(readingHours)
    .where(
      and(
        inArray(readingHours.installationId, [...installationIds]),
        gte(readingHours.hour, hourOf(from)),
        lte(readingHours.hour, hourOf(to)),
      ),
    )
    .orderBy(asc(readingHours.hour))
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

/** The newest reading of a sensor; null where there is none. */
export async function latestReading(db: Database, installationId: number): Promise<Reading | null> {
  const [latest] = await db
    .select()
    .from(readings)
    .where(eq(readings.installationId, installationId))
    .orderBy(desc(readings.at))
    .limit(1)
  const [hour] = await db
    .select()
    .from(readingHours)
    .where(eq(readingHours.installationId, installationId))
    .orderBy(desc(readingHours.hour))
    .limit(1)
  const packed = hour ? unpack(hour).at(-1) : undefined
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
  const rows = await db
    .select()
    .from(rollUps)
    .where(
      and(
        inArray(rollUps.installationId, [...installationIds]),
        eq(rollUps.hours, hours),
        gte(rollUps.start, hourOf(from) - hours + 1),
        lte(rollUps.start, hourOf(to)),
      ),
    )
    .orderBy(asc(rollUps.start))
  return rows.map((row) => ({
    ...rolledOf(row),
    installationId: row.installationId,
    at: row.start * HOUR_MS,
    temperature: unpacked(row.temperature),
  }))
}

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
  const row = packedHour(installationId, hour, whole)
  const { at, shown, signal, temperature, state } = row
  await tx
    .insert(readingHours)
    .values(row)
    .onConflictDoUpdate({
      target: [readingHours.installationId, readingHours.hour],
      set: { at, shown, signal, temperature, state },
    })
  await writeRollUps(tx, installationId, [hourRollUp(installationId, hour, whole)])
  await tx.delete(readings).where(ofHour(installationId, hour))
}

/** What is older than this, d, is known by its roll-ups alone. */
const KEPT_DAYS = 400

/** Forgets readings that are older than they are kept. */
export async function forgetReadings(db: Database, now: number): Promise<void> {
  const before = hourOf(now) - KEPT_DAYS * DAY_HOURS
  await db.delete(readingHours).where(lt(readingHours.hour, before))
}

/** Gives the readings of one stay of a sensor to another, which turned out to be the same. */
export async function moveReadings(tx: Transaction, from: number, to: number): Promise<void> {
  const hours = await tx.select().from(readingHours).where(eq(readingHours.installationId, from))
  const latest = await tx.select().from(readings).where(eq(readings.installationId, from))
  const all = [...hours.flatMap(unpack), ...latest.map(readingOf)]
  await tx.delete(readings).where(eq(readings.installationId, from))
  await tx.delete(readingHours).where(eq(readingHours.installationId, from))
  await tx.delete(rollUps).where(eq(rollUps.installationId, from))
  await keepReadings(tx, to, { all, apartMs: 1 })
}
