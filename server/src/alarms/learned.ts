import { DAY_MS, type DaySummary, dayStart, daySummary } from '@frustum/core'
import { and, eq, inArray, sql } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { connections, learnedDays } from '../database/schema.ts'
import { readingsBetween } from '../readings/readingStore.ts'
import type { Installed } from '../sensors.ts'

/** Days from which typical readings are learned. */
export const USUAL_DAYS = 28
/** Significant digits that are stored of a noise. */
const DIGITS = 4

/** Poll intervals that were set for connections, ms, by connection. */
export type PollIntervals = ReadonlyMap<number, number | undefined>

export async function pollIntervals(db: Database): Promise<PollIntervals> {
  const rows = await db.select({ id: connections.id, settings: connections.settings }).from(connections)
  return new Map(rows.map(({ id, settings: { everyMs } }) => [id, typeof everyMs === 'number' ? everyMs : undefined]))
}

/** Device, setting, source and poll interval of a sensor's readings, as text. If it changes, learning starts over. */
export const readAsOf = ({ position: { mapping }, device }: Installed, polls: PollIntervals): string =>
  JSON.stringify([
    device.id,
    device.connectionId,
    device.setting,
    mapping?.value ?? null,
    mapping?.signal ?? null,
    polls.get(device.connectionId ?? 0) ?? null,
  ])

/** Returns what is stored of each sensor, without its days. */
export const learnedThrough = (db: Database) =>
  db
    .select({
      installationId: learnedDays.installationId,
      through: learnedDays.through,
      readAs: learnedDays.readAs,
      since: learnedDays.since,
    })
    .from(learnedDays)

/** Returns the stored days of these sensors. */
export async function learnedDaysOf(
  db: Database,
  ids: readonly number[],
): Promise<{ installationId: number; days: DaySummary[] }[]> {
  if (ids.length === 0) return []
  const rows = await db
    .select()
    .from(learnedDays)
    .where(inArray(learnedDays.installationId, [...ids]))
  return rows.map(({ installationId, days }) => ({ installationId, days: days.map((d) => d.summary) }))
}

/** Summarizes the past days of a sensor that are missing, and returns all days from which typical readings are learned. */
export async function learnDays(
  db: Database,
  installed: Installed,
  polls: PollIntervals,
  now: number,
): Promise<DaySummary[]> {
  const { id } = installed.installation
  const readAs = readAsOf(installed, polls)
  // A sensor whose entry was just undone is left out.
  await db.execute(sql`
    insert into learned_days (installation_id, read_as, through, days)
    select id, ${readAs}, 'epoch', '[]' from installations where id = ${id} on conflict do nothing`)
  const [row] = await db.select().from(learnedDays).where(eq(learnedDays.installationId, id))
  if (!row) return []
  const today = dayStart(now)
  const isSame = row.readAs === readAs
  const since = isSame ? row.since : new Date(now)
  const from = Math.max(today - USUAL_DAYS * DAY_MS, since?.getTime() ?? 0)
  const days = (isSame ? row.days : []).filter((d) => d.day + DAY_MS > from && d.day < today)
  const begin = isSame ? Math.max(from, row.through.getTime()) : from
  if (begin < today) days.push(...(await summedUp(db, id, begin, today)))
  await db
    .update(learnedDays)
    .set({ readAs, since, through: new Date(today), days })
    .where(and(eq(learnedDays.installationId, id), eq(learnedDays.revision, row.revision)))
  return days.map((d) => d.summary)
}

async function summedUp(db: Database, id: number, from: number, to: number) {
  const byDay = new Map<number, Parameters<typeof daySummary>[0][number][]>()
  for (const { at, shown, state } of await readingsBetween(db, [id], { from, to: to - 1 })) {
    const day = dayStart(at)
    const of = byDay.get(day) ?? []
    byDay.set(day, of)
    of.push({ at, value: shown, state })
  }
  return [...byDay].map(([day, all]) => {
    const { noises, ...summary } = daySummary(all)
    return { day, summary: { ...summary, noises: noises.map((n) => Number(n.toPrecision(DIGITS))) } }
  })
}

/** Empties what is stored of a sensor, after readings of past days arrived or were retracted. */
export async function relearn(tx: Transaction | Database, installationId: number): Promise<void> {
  await tx
    .update(learnedDays)
    .set({ through: new Date(0), days: [], revision: sql`${learnedDays.revision} + 1` })
    .where(eq(learnedDays.installationId, installationId))
}
