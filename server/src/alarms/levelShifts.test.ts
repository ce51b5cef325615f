import { randomUUID } from 'node:crypto'
import { alarmSentence, DAY_MS } from '@frustum/core'
import { expect, it } from 'vitest'
import { newSite } from '../../../lab/src/fixtures/newSite.ts'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import type { Database } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import { keepManyReadings } from '../readings/keepMany.ts'
import { alarmViews } from './alarmViews.ts'
import { LevelShifts } from './levelShifts.ts'

const HOUR = 3_600_000
const TODAY = Date.UTC(2026, 2, 28)

/** Readings every half an hour of days like every other, and a drift that begins three weeks before the end, pH per day. */
const fill = (db: Database, id: number, perDay: number) =>
  keepManyReadings(
    db,
    id,
    Array.from({ length: 60 * 48 }, (_, i) => {
      const at = TODAY - 60 * DAY_MS + (i * HOUR) / 2
      const drift = Math.max(0, (at - (TODAY - 21 * DAY_MS)) / DAY_MS) * perDay
      const shown = Math.round(100 * (8.1 + 0.05 * Math.sin((2 * Math.PI * at) / DAY_MS) + drift)) / 100
      return { at, shown, signal: null, temperature: null, state: 'good' as const }
    }),
  )

it('a slow drift raises one alarm by day, never at night, and a visit ends it', async () => {
  const db = await newSite(['T1-pH', 'T2-pH'], TODAY - 90 * DAY_MS)
  let now = TODAY + 2 * HOUR
  const clock = { now: () => now, rate: 1 }
  await fill(db, 1, 0.02)
  await fill(db, 2, 0)
  const shifts = new LevelShifts({ db, clock })
  const look = async (watch = shifts) => {
    await watch.look()
    return (await alarmViews(db, now)).map((a) => ({
      position: a.position,
      text: plain(alarmSentence(a)),
      active: a.returnedAt === null,
    }))
  }
  expect(await look()).toEqual([])
  now = TODAY + 10 * HOUR
  const raised = [
    {
      position: 'T1-pH',
      text: expect.stringMatching(/^has shifted by \+0\.\d\d pH since \d+ Mar; expected at most 0\.\d\d pH$/),
      active: true,
    },
  ]
  expect(await look()).toEqual(raised)
  // The next day, and after a restart, it is still the one.
  now += DAY_MS
  expect(await look()).toEqual(raised)
  expect(await look(new LevelShifts({ db, clock }))).toEqual(raised)
  // Without new readings nothing is known: it stays, and nothing is raised by what is old.
  now += 10 * DAY_MS
  expect(await look()).toEqual(raised)
  await db.insert(visits).values({
    id: randomUUID(),
    installationId: 1,
    procedure: 'ph-check',
    settings: { standards: {}, opening: {} },
    operator: 'A. Fenn',
    startedAt: new Date(now),
    closedAt: new Date(now),
    outcome: 'done',
  })
  now += HOUR
  expect(await look()).toMatchObject([{ active: false }])
})

it('days of some time ago raise nothing: they say nothing of now', async () => {
  const db = await newSite(['T1-pH'], TODAY - 90 * DAY_MS)
  await fill(db, 1, 0.02)
  const raisedAfter = async (days: number) => {
    const clock = { now: () => TODAY + days * DAY_MS + 10 * HOUR, rate: 1 }
    await new LevelShifts({ db, clock }).look()
    return (await alarmViews(db, clock.now())).length
  }
  expect(await raisedAfter(10)).toBe(0)
  expect(await raisedAfter(2)).toBe(1)
})
