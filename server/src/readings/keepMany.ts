import { and, eq, gte, lte } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { readings } from '../database/schema.ts'
import {
  forgottenHours,
  hourOf,
  hourRollUp,
  keepReadings,
  packedHour,
  packedHours,
  type Reading,
  writeHours,
  writeRollUps,
} from './readingStore.ts'

const HOUR_MS = 3_600_000
/** Hours of a sensor that are written at once: as long as it takes, others wait. */
const HOURS_AT_ONCE = 500

/**
 * Keeps many readings of a sensor, in the order of their times, as whole hours. What is there already stays as it is.
 * Returns how many are new.
 */
export async function keepManyReadings(db: Database, installationId: number, all: readonly Reading[]): Promise<number> {
  let fresh = 0
  for (const part of inHours(all)) fresh += await db.transaction((tx) => keepHours(tx, installationId, part))
  return fresh
}

type Hours = Map<number, Reading[]>

/** Some hundred hours at a time. */
function* inHours(all: readonly Reading[]): Generator<Hours> {
  let part: Hours = new Map()
  for (const reading of all) {
    const hour = hourOf(reading.at)
    const of = part.get(hour)
    if (of) {
      of.push(reading)
      continue
    }
    if (part.size >= HOURS_AT_ONCE) {
      yield part
      part = new Map()
    }
    part.set(hour, [reading])
  }
  if (part.size > 0) yield part
}

async function keepHours(tx: Transaction, installationId: number, part: Hours): Promise<number> {
  const hours = [...part.keys()]
  const packed = await packedHours(tx, installationId, hours)
  const latest = await latestHours(tx, installationId, hours)
  const forgotten = await forgottenHours(
    tx,
    installationId,
    hours.filter((hour) => !packed.has(hour) && !latest.has(hour)),
  )
  let fresh = 0
  const rows: ReturnType<typeof packedHour>[] = []
  const rolled: ReturnType<typeof hourRollUp>[] = []
  for (const [hour, come] of part) {
    // Hours that are not over yet, or not packed, are kept as what comes by line is.
    if (latest.has(hour)) {
      fresh += await keepReadings(tx, installationId, { all: come, apartMs: 1 })
      continue
    }
    if (forgotten.has(hour)) continue
    const before = packed.get(hour) ?? []
    const known = new Set(before.map((r) => r.at))
    const news = come.filter((r) => !known.has(r.at) && known.add(r.at))
    if (news.length === 0) continue
    fresh += news.length
    const whole = before.length === 0 ? news : [...before, ...news].sort((a, b) => a.at - b.at)
    rows.push(packedHour(installationId, hour, whole))
    rolled.push(hourRollUp(installationId, hour, whole))
  }
  if (rows.length > 0) {
    await writeHours(tx, rows)
    await writeRollUps(tx, installationId, rolled)
  }
  return fresh
}

/** Hours of which there are readings that are not packed yet. */
async function latestHours(tx: Transaction, installationId: number, hours: readonly number[]): Promise<Set<number>> {
  const [first, last] = [Math.min(...hours), Math.max(...hours)]
  const rows = await tx
    .select({ at: readings.at })
    .from(readings)
    .where(
      and(
        eq(readings.installationId, installationId),
        gte(readings.at, new Date(first * HOUR_MS)),
        lte(readings.at, new Date((last + 1) * HOUR_MS)),
      ),
    )
  return new Set(rows.map(({ at }) => hourOf(at.getTime())))
}
