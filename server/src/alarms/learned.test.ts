import { DAY_MS } from '@frustum/core'
import pino from 'pino'
import { expect, it } from 'vitest'
import { newSite } from '../../../lab/src/fixtures/newSite.ts'
import { connections, devices } from '../database/schema.ts'
import { keepManyReadings } from '../readings/keepMany.ts'
import { installedSensors } from '../sensors.ts'
import { learnedThrough, relearn } from './learned.ts'
import { SensorAlarms } from './sensorAlarms.ts'

const MINUTE = 60_000
const TODAY = Date.UTC(2026, 2, 28)

/** A site with two sensors, and what a watch that begins now knows of them. */
async function site() {
  const db = await newSite(['T1-pH', 'T2-pH'], TODAY - 60 * DAY_MS)
  const log = pino({ level: 'silent' })
  let now = TODAY + 9 * 60 * MINUTE
  return {
    db,
    pass: (ms: number) => {
      now += ms
    },
    installed: () => installedSensors(db),
    /** As after a start of the server. */
    watch: async () => {
      const alarms = new SensorAlarms(db, { now: () => now, rate: 1 }, log)
      await alarms.follow(await installedSensors(db))
      return alarms
    },
    /** Days of readings, one every five minutes, moving by a step each time. */
    fill: async (installationId: number, days: number, until = TODAY) => {
      const all = Array.from({ length: days * 288 }, (_, i) => {
        const at = until - days * DAY_MS + i * 5 * MINUTE
        return { at, shown: 8.1 + 0.01 * (i % 3), signal: null, temperature: null, state: 'good' as const }
      })
      await keepManyReadings(db, installationId, all)
    },
  }
}

/** What a watch says of each sensor: null where nothing is known yet of how long it stands still. */
const stillOf = (alarms: SensorAlarms) =>
  [...(alarms as unknown as { watched: Map<number, { watch: { stillDelayMs: number | null } }> }).watched.values()].map(
    (w) => w.watch.stillDelayMs,
  )

it('what is usual of all sensors is learned in one turn, and known at once after a restart', async () => {
  const { fill, watch, installed, db } = await site()
  const [first, second] = await installed()
  await fill(first?.installation.id as number, 10)
  await fill(second?.installation.id as number, 10)
  const alarms = await watch()
  expect(stillOf(alarms)).toEqual([null, null])
  await expect.poll(async () => alarms.learn().then(() => stillOf(alarms))).toEqual([3_600_000, 3_600_000])
  expect((await learnedThrough(db)).map((row) => row.through.getTime())).toEqual([TODAY, TODAY])
  expect(stillOf(await watch())).toEqual([3_600_000, 3_600_000])
})

it('a log that is imported counts at once, and a day that is over is added to those before', async () => {
  const { fill, watch, installed, db, pass } = await site()
  const id = (await installed())[0]?.installation.id as number
  const alarms = await watch()
  await alarms.learn()
  expect(stillOf(alarms)[0]).toBeNull()
  await fill(id, 10)
  await relearn(db, id)
  await expect.poll(async () => alarms.learn().then(() => stillOf(alarms)[0])).toBe(3_600_000)
  pass(DAY_MS)
  await alarms.learn()
  const { rows } = await db.$client.query<{ days: { day: number }[] }>(
    `select days from learned_days where installation_id = ${id}`,
  )
  expect(rows[0]?.days.map((d) => (TODAY - d.day) / DAY_MS)).toEqual([10, 9, 8, 7, 6, 5, 4, 3, 2, 1])
})

it('where the device or its display changes, what is usual is learned anew', async () => {
  const { fill, watch, installed, db, pass } = await site()
  const id = (await installed())[0]?.installation.id as number
  await fill(id, 10)
  const alarms = await watch()
  await expect.poll(async () => alarms.learn().then(() => stillOf(alarms)[0])).toBe(3_600_000)
  await db.update(devices).set({ setting: { fixedTemperature: 25 } })
  await alarms.follow(await installed())
  await expect.poll(async () => alarms.learn().then(() => stillOf(alarms)[0])).toBeNull()
  // Days from before the change stay out of it, after a restart, too.
  pass(DAY_MS)
  const later = await watch()
  await later.learn()
  expect(stillOf(later)[0]).toBeNull()
  await fill(id, 4, TODAY + 5 * DAY_MS)
  await relearn(db, id)
  pass(4 * DAY_MS)
  await expect.poll(async () => later.learn().then(() => stillOf(later)[0])).toBe(3_600_000)
})

it('where the poll interval of its connection changes, what is usual is learned anew', async () => {
  const { fill, watch, installed, db } = await site()
  await db.insert(connections).values({ name: 'Hall gateway', protocol: 'modbus-tcp', settings: { everyMs: 1000 } })
  await db.update(devices).set({ connectionId: 1 })
  await fill((await installed())[0]?.installation.id as number, 10)
  const alarms = await watch()
  await expect.poll(async () => alarms.learn().then(() => stillOf(alarms)[0])).toBe(3_600_000)
  await db.update(connections).set({ settings: { everyMs: 60_000 } })
  await expect.poll(async () => alarms.learn().then(() => stillOf(alarms)[0])).toBeNull()
})
