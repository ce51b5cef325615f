import { expect, it } from 'vitest'
import { newDatabase } from '../../../lab/src/fixtures/newSite.ts'
import { alarmViews } from './alarmViews.ts'
import { freeOn, hasRoomForReadings, lookAtSite } from './siteAlarms.ts'

it('a disk that fills up is told before it is full, once; then readings give way to records', async () => {
  const { db, folder } = await newDatabase()
  const now = Date.UTC(2026, 2, 28)
  const look = async (freeBytes: number) => {
    await lookAtSite({ db, clock: { now: () => now, rate: 1 } }, freeBytes)
    return (await alarmViews(db, now)).map(({ kind, value, returnedAt }) => ({
      kind,
      value,
      gone: returnedAt !== null,
    }))
  }
  expect(await look(5e9)).toEqual([])
  expect(await look(3e8)).toEqual([{ kind: 'no-room', value: 300, gone: false }])
  expect(await look(1e8)).toEqual([{ kind: 'no-room', value: 300, gone: false }])
  expect((await look(5e9)).every((a) => a.gone)).toBe(true)
  expect([3e8, 1e8].map(hasRoomForReadings)).toEqual([true, false])
  expect(await freeOn(folder)).toBeGreaterThan(0)
})
