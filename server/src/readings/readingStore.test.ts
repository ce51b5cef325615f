import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { binned, DAY_MS, READING_STATES, type ReadingState, randomStream, rollUpOf } from '@frustum/core'
import { eq, sql } from 'drizzle-orm'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type OpenDatabase, openDatabaseIn } from '../database/open.ts'
import { devices, installations, places, positions, readings, rollUps, sensors, sites } from '../database/schema.ts'
import { keepManyReadings } from './keepMany.ts'
import {
  forgetReadings,
  keepReadings,
  packReadings,
  type Reading,
  readingsBetween,
  rollUpsBetween,
} from './readingStore.ts'

const HOUR = 3_600_000
const BEGIN = Date.UTC(2026, 2, 28, 22)
const EVER = { from: 0, to: 1e13 }
const folder = mkdtempSync(join(tmpdir(), 'frustum-readings-'))
let database: OpenDatabase

beforeAll(async () => {
  database = await openDatabaseIn(folder)
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true, force: true })
})

/** A sensor of its own for each test. */
async function sensor(): Promise<number> {
  const { db } = database
  const [site] = await db.insert(sites).values({ name: 'Mill', timeZone: 'UTC' }).returning()
  const [place] = await db
    .insert(places)
    .values({ siteId: site?.id as number, name: 'Hall', water: 'seawater' })
    .returning()
  const [device] = await db.insert(devices).values({ name: 'Display', shows: 'value' }).returning()
  const code = `P-${Math.random()}`
  const [position] = await db
    .insert(positions)
    .values({
      placeId: place?.id as number,
      deviceId: device?.id as number,
      code,
      spot: '',
      cautions: [],
      kind: 'ph',
      processValue: 8,
      processTemperature: 25,
      tolerance: 0.1,
      floorDays: 7,
      ceilingDays: 90,
    } as typeof positions.$inferInsert)
    .returning()
  const [made] = await db.insert(sensors).values({ serialNumber: code, kind: 'ph', model: '' }).returning()
  const [stay] = await db
    .insert(installations)
    .values({
      sensorId: made?.id as number,
      positionId: position?.id as number,
      deviceId: device?.id as number,
      installedAt: new Date(BEGIN),
    })
    .returning()
  return stay?.id as number
}

const keep = (id: number, all: readonly Reading[], apartMs = 1) =>
  database.db.transaction((tx) => keepReadings(tx, id, { all, apartMs }))

const reading = (at: number, shown: number | null, state: ReadingState = 'good'): Reading => ({
  at,
  shown,
  signal: null,
  temperature: 25,
  state,
})

/** Every roll-up of a sensor against what its readings come to now, and against SQL. */
async function expectRolledUp(id: number): Promise<void> {
  const { db } = database
  const all = await readingsBetween(db, [id], EVER)
  for (const hours of [1, 24] as const) {
    const rolled = await rollUpsBetween(db, [id], { ...EVER, hours })
    const again = binned(
      all.map((r) => ({
        at: r.at,
        rollUp: rollUpOf([{ value: r.shown, state: r.state }]),
        temperature: r.temperature,
      })),
      hours * HOUR,
    )
    expect(rolled.map((r) => r.at)).toEqual(again.map((b) => b.at))
    for (const [i, { rollUp }] of rolled.entries()) {
      const bin = again[i]
      expect(rollUp).toMatchObject({ count: bin?.count, good: bin?.good })
      for (const name of ['min', 'max', 'mean'] as const) {
        if (bin?.[name] == null) expect(rollUp[name]).toBeNull()
        else
          expect(Math.abs((rollUp[name] as number) - (bin[name] as number))).toBeLessThan(
            1e-5 * (1 + Math.abs(bin[name] as number)),
          )
      }
    }
  }
}

describe('readings between visits', () => {
  it('are rolled up as they come, in whatever order, packed or not, late ones too', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            second: fc.integer({ min: 0, max: 40 * 3600 }),
            shown: fc.option(fc.integer({ min: 600, max: 900 }).map((v) => v / 100)),
            state: fc.constantFrom(...READING_STATES),
          }),
          { minLength: 1, maxLength: 60 },
        ),
        fc.integer({ min: 1, max: 20 }),
        fc.integer({ min: 0, max: 45 }),
        async (some, atOnce, packedAfter) => {
          const id = await sensor()
          const all = some.map(({ second, shown, state }) => reading(BEGIN + 1000 * second, shown, state))
          for (let i = 0; i < all.length; i += atOnce) {
            await keep(id, all.slice(i, i + atOnce))
            await packReadings(database.db, BEGIN + packedAfter * HOUR)
          }
          const kept = await readingsBetween(database.db, [id], EVER)
          const first = new Map([...all].reverse().map((r) => [r.at, r]))
          expect(kept).toEqual([...first.values()].sort((a, b) => a.at - b.at))
          expect(await keep(id, all)).toBe(0)
          await expectRolledUp(id)
        },
      ),
      { numRuns: process.env.FRUSTUM_SOAK ? 150 : 12 },
    )
  })

  it('come to what SQL says', async () => {
    const id = await sensor()
    const random = randomStream(11)
    await keep(
      id,
      Array.from({ length: 300 }, (_, i) => reading(BEGIN + i * 71_000, 8 + 0.2 * random.normal())),
    )
    const { rows } = await database.db.execute<{
      start: number
      n: number
      low: number
      high: number
      mean: number
      sd: number
    }>(
      sql`select floor(extract(epoch from ${readings.at}) / 3600)::int as start, count(*)::int as n, min(shown) as low,
        max(shown) as high, avg(shown) as mean, stddev_samp(shown) as sd
        from ${readings} where installation_id = ${id} group by 1 order by 1`,
    )
    const rolled = await database.db
      .select()
      .from(rollUps)
      .where(sql`${rollUps.installationId} = ${id} and ${rollUps.hours} = 1`)
      .orderBy(rollUps.start)
    expect(rolled.length).toBe(rows.length)
    for (const [i, { start, n, low, high, mean, sd }] of rows.entries()) {
      const one = rolled[i]
      expect([one?.start, one?.good]).toEqual([start, n])
      expect(one?.min).toBeCloseTo(low, 5)
      expect(one?.max).toBeCloseTo(high, 5)
      expect(one?.mean).toBeCloseTo(mean, 10)
      expect(Math.sqrt((one?.squares as number) / (n - 1))).toBeCloseTo(sd, 10)
    }
  })

  it('take at most 30 MB a sensor and year at one a minute, and are forgotten after 400 days but for their roll-ups', async () => {
    const id = await sensor()
    const random = randomStream(7)
    const days = process.env.FRUSTUM_SOAK ? 365 : 5
    const size = async () => {
      const { rows } = await database.db.execute<{ bytes: number }>(
        sql`select (pg_total_relation_size('readings') + pg_total_relation_size('reading_hours') + pg_total_relation_size('roll_ups'))::int as bytes`,
      )
      return rows[0]?.bytes as number
    }
    await packReadings(database.db, BEGIN + 1000 * DAY_MS)
    const before = await size()
    for (let day = 0; day < days; day++) {
      const from = BEGIN + day * DAY_MS
      await keep(
        id,
        Array.from({ length: 1440 }, (_, i) => ({
          ...reading(from + i * 60_000 + Math.floor(900 * random.uniform()), 8 + 0.01 * random.normal()),
          signal: -60 + random.normal(),
          temperature: 25 + 0.1 * random.normal(),
        })),
      )
      await packReadings(database.db, from + 2 * DAY_MS)
    }
    const aYear = ((await size()) - before) * (365 / days)
    expect(aYear / 1e6).toBeLessThan(30)
    expect((await readingsBetween(database.db, [id], EVER)).length).toBe(days * 1440)
    await forgetReadings(database.db, BEGIN + (400 + days) * DAY_MS, { readingsDays: 400, hoursDays: null })
    // The last hour begins within the last day that is kept.
    expect((await readingsBetween(database.db, [id], EVER)).length).toBeLessThanOrEqual(120)
    const rolled = await database.db.select().from(rollUps).where(eq(rollUps.installationId, id))
    expect(rolled.filter((r) => r.hours === 1).length).toBeGreaterThanOrEqual(days * 24)
    // A late one, or the whole log again, does not put itself in the place of all that was rolled up.
    const late = [reading(BEGIN + 5 * HOUR + 1234, 4)]
    expect(await keep(id, late)).toBe(0)
    expect(await keepManyReadings(database.db, id, late)).toBe(0)
    await forgetReadings(database.db, BEGIN + (400 + days) * DAY_MS, { readingsDays: 400, hoursDays: 400 })
    expect(await keep(id, late)).toBe(0)
    const known = (rows: typeof rolled) => rows.filter((r) => r.hours === 24).sort((a, b) => a.start - b.start)
    const left = await database.db.select().from(rollUps).where(eq(rollUps.installationId, id))
    expect(known(left)).toEqual(known(rolled))
    expect(left.filter((r) => r.hours === 1).length).toBeLessThanOrEqual(48)
  })

  it('of what no row can hold are kept as nothing, and hold up no other', async () => {
    const id = await sensor()
    const all = [1e300, -1e300, 1e-300, 8.1].map((shown, i) => ({
      ...reading(BEGIN + i * 60_000, shown),
      temperature: shown,
    }))
    expect(await keep(id, all)).toBe(4)
    await packReadings(database.db, BEGIN + 10 * HOUR)
    const kept = await readingsBetween(database.db, [id], EVER)
    expect(kept.map((r) => r.shown)).toEqual([null, null, 0, 8.1])
    await expectRolledUp(id)
  })
})
