import { type CalendarDay, dayAt } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { expect, it } from 'vitest'
import { newSite } from '../../../lab/src/fixtures/newSite.ts'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { lastingAlarms } from '../alarms/alarmStore.ts'
import { lookAtSite } from '../alarms/siteAlarms.ts'
import { instruments, solutionLots } from '../database/schema.ts'
import { openToDos } from './toDos.ts'

const NOW = Date.UTC(2026, 2, 28, 12)

it('an empty bottle, an instrument past its date and an old backup are to-dos, and no alarms', async () => {
  const db = await newSite(['T1-pH'], NOW - 60 * DAY_MS)
  const day = (days: number): CalendarDay => dayAt(NOW + days * DAY_MS, 'UTC')
  const meter = {
    kind: 'hand-meter',
    serial: '',
    uncertainty: 0.02,
    unit: 'pH',
    addedAt: new Date(NOW),
    addedBy: 'Fenn',
  } as const
  await db.insert(instruments).values([
    { ...meter, name: 'Old meter', calibratedOn: day(-45) },
    { ...meter, name: 'New meter', calibratedOn: day(-5) },
    { ...meter, name: 'Meter without a date', calibratedOn: null },
  ])
  const lot = { lifeAfterOpeningDays: 90, volume: 500 }
  await db.insert(solutionLots).values([
    { ...lot, standard: 'pH7.00', lot: 'A1', expiresOn: day(-1) },
    { ...lot, standard: 'pH4.01', lot: 'B1', expiresOn: day(-1) },
    { ...lot, standard: 'pH4.01', lot: 'B2', expiresOn: day(100) },
    { ...lot, standard: 'pH10.01', lot: 'C1', expiresOn: day(-1), discardedAt: new Date(NOW) },
  ])
  const toDos = await openToDos(db, NOW, 'There is no backup yet.')
  expect(toDos.map((t) => plain(t.sentence))).toEqual([
    expect.stringMatching(/^pH 7.00.*: no usable bottle left\.$/),
    'Old meter was calibrated 45 days ago.',
    'There is no backup yet.',
  ])
  await lookAtSite({ db, clock: { now: () => NOW, rate: 1 } }, 1e12)
  expect(await lastingAlarms(db)).toEqual([])
})
