import { type CalibrationParameters, DAY_MS } from '@frustum/core'
import { expect, it } from 'vitest'
import { newSite } from '../../../lab/src/fixtures/newSite.ts'
import { alarmViews } from '../alarms/alarmViews.ts'
import { lookAtSite } from '../alarms/siteAlarms.ts'
import { calibrations } from '../database/schema.ts'
import { installedAt } from '../sensors.ts'
import { changedDeviceCalibrations, checkDeviceCalibration, numbersChanges } from './deviceCalibration.ts'
import type { Links } from './links.ts'

/** A linked sensor whose device tells its numbers, looked at once a day. */
async function watched() {
  let now = Date.UTC(2026, 2, 1)
  const db = await newSite(['T1-pH'], now)
  const installed = await installedAt(db, 'T1-pH')
  let held: CalibrationParameters = {}
  const links = {
    link: () => ({ calibration: { read: async () => held } }),
    live: { current: () => ({ blindSince: null }) },
  } as unknown as Links
  return {
    db,
    installed,
    /** What the alarms say a day later, with the device holding this. */
    async day(numbers: CalibrationParameters) {
      now += DAY_MS
      held = numbers
      await checkDeviceCalibration(db, links, installed, new Date(now))
      const context = { db, clock: { now: () => now, rate: 1 } }
      await lookAtSite(context, 1e12)
      const views = (await alarmViews(db, now)).filter((a) => a.kind === 'numbers-changed')
      return {
        active: views
          .filter((a) => a.returnedAt === null)
          .map((a) => [a.position, a.subject?.replaceAll('\u00a0', ' ')]),
        over: views.filter((a) => a.returnedAt !== null).length,
      }
    },
    /** A calibration whose numbers the device was given. */
    async give(characteristic: CalibrationParameters) {
      now += DAY_MS
      const row = { installationId: installed.installation.id, at: new Date(now), uncertainty: {}, adopted: true }
      await db.insert(calibrations).values({ ...row, characteristic })
    },
  }
}

const FIRST = { zero: 3.1, slopeEfficiency: 0.986 }

it('numbers that are read for the first time, or differ by a digit, raise nothing and are no change', async () => {
  const { day, db, installed } = await watched()
  expect(await day(FIRST)).toEqual({ active: [], over: 0 })
  expect(await day({ zero: 3.14, slopeEfficiency: 0.9864 })).toEqual({ active: [], over: 0 })
  expect((await numbersChanges(db, [installed])).size).toBe(0)
})

it('a real change raises an alarm with the numbers, another one a new alarm, and numbers that return end it', async () => {
  const { day, db, installed } = await watched()
  await day(FIRST)
  const reset = { active: [['T1-pH', 'slope 100.0 %, zero 0.0 mV']], over: 0 }
  expect(await day({ zero: 0, slopeEfficiency: 1 })).toEqual(reset)
  // As long as it stays, it is the same event.
  expect(await day({ zero: 0, slopeEfficiency: 1 })).toEqual(reset)
  expect(await day({ zero: -8, slopeEfficiency: 0.95 })).toEqual({
    active: [['T1-pH', 'slope 95.0 %, zero −8.0 mV']],
    over: 1,
  })
  // What is to be restored is what it was given, not what it held between.
  const changed = (await changedDeviceCalibrations(db, [installed])).get(installed.installation.id)
  expect(changed?.given).toEqual(FIRST)
  expect(await day(FIRST)).toEqual({ active: [], over: 2 })
  const shifts = (await numbersChanges(db, [installed])).get(installed.installation.id) ?? []
  expect(shifts).toHaveLength(3)
  // There and back: all steps together come to nothing.
  expect(shifts.reduce((sum, s) => sum + s.shift, 0)).toBeCloseTo(0, 9)
})

it('a calibration gives other numbers without an alarm, and a change after it raises one', async () => {
  const { day, give } = await watched()
  await day(FIRST)
  expect((await day({ zero: 0, slopeEfficiency: 1 })).active).toHaveLength(1)
  await give({ zero: -2, slopeEfficiency: 0.97 })
  expect(await day({ zero: -2.02, slopeEfficiency: 0.9703 })).toEqual({ active: [], over: 1 })
  expect((await day({ zero: 0, slopeEfficiency: 1 })).active).toHaveLength(1)
})
