import { randomUUID } from 'node:crypto'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { SeriesView, VisitView, WalkOutcome, WalkPlaceView } from '@frustum/contract'
import type { CalibrationParameters } from '@frustum/core'
import { openDatabaseIn } from '@frustum/server/database'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from 'vitest'
import { lastingAlarms } from '../../server/src/alarms/alarmStore.ts'
import type { Reading } from '../../server/src/readings/readingStore.ts'
import { openVisit } from '../../server/src/records/openVisit.ts'
import { appendEntry } from '../../server/src/visits/append.ts'
import { CalibrationWrites } from '../../server/src/visits/calibrationWrites.ts'
import { VisitDesk } from '../../server/src/visits/desk.ts'
import { LiveDesks } from '../../server/src/visits/liveDesks.ts'
import { writeReadings } from '../../server/src/watching/recorder.ts'
import { newFolder, operator, ownSite } from '../support/ownSite.ts'
import { startTestServer } from '../support/testServer.ts'

/** Nothing that came in is lost with something else that was wrong, and nothing that is over is carried along. */

const LIST = 'code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater'
const MINUTE = 60_000

it('two sheets of the same minute are both kept', async () => {
  const site = await ownSite(LIST)
  const [hall] = await site.get<WalkPlaceView[]>('walks')
  const at = site.clock.now() - MINUTE
  for (const shown of [8.12, 8.13, 8.14]) {
    const { body } = await site.ask<WalkOutcome>(`walks/${hall?.id}`, {
      operator,
      at,
      readings: [{ position: 'T1-pH', shown, beside: { value: 8.1, uncertainty: 0.01, with: 'Meter' } }],
    })
    expect(body.kept).toBe(1)
  }
  const series = await site.get<SeriesView>(`probes/T1-pH/series?from=${at - MINUTE}&to=${at + MINUTE}`)
  expect(series.whole).toMatchObject({ good: 3, min: 8.12, max: 8.14 })
})

it('one reading that cannot be written costs no other one, and each goes to the sensor that was there', async () => {
  const site = await ownSite(LIST)
  const at = site.clock.now()
  await site.stop()
  const { db, close } = await openDatabaseIn(site.folder)
  try {
    const { rows } = await db.execute<{ id: number; code: string }>(sql`select id, code from positions order by code`)
    const [first, second] = rows.map((r) => r.id) as [number, number]
    const one = (when: number): Reading => ({ at: when, shown: 8.1, signal: null, temperature: null, state: 'good' })
    // Beyond what the hour of a row can hold.
    const impossible = one(1e17)
    const outcome = await writeReadings(
      db,
      new Map([
        [first, [one(at + 1000), impossible, one(at + 2000)]],
        [second, [one(at + 1000)]],
      ]),
    )
    expect(outcome.failed.map((f) => f.positionId)).toEqual([first])
    expect(outcome.unwritten.size).toBe(0)
    const kept = async () =>
      (
        await db.execute<{ code: string; n: number }>(
          sql`select p.code, count(r.*)::int as n from positions p
              join installations i on i.position_id = p.id left join readings r on r.installation_id = i.id
              group by p.code order by p.code`,
        )
      ).rows
    expect(await kept()).toEqual([
      { code: 'T1-pH', n: 2 },
      { code: 'T2-pH', n: 1 },
    ])
    // A database that takes nothing at all: everything waits.
    await db.execute(sql`alter table readings rename to readings_away`)
    const waiting = new Map([[first, [one(at + 3000)]]])
    expect((await writeReadings(db, waiting)).unwritten).toEqual(waiting)
    await db.execute(sql`alter table readings_away rename to readings`)
  } finally {
    await close()
  }
})

it('active alarms are found without looking at all there were', async () => {
  const site = await ownSite(LIST)
  await site.stop()
  const { db, close } = await openDatabaseIn(site.folder)
  try {
    await db.execute(sql`insert into alarms (kind, raised_at, gone_at)
      select 'blind', now() - i * interval '1 minute', case when i > 3 then now() end from generate_series(1, 20000) i`)
    await db.execute(sql`analyze alarms`)
    expect(await lastingAlarms(db)).toHaveLength(3)
    const { rows } = await db.execute<Record<string, string>>(sql`explain select * from alarms where gone_at is null`)
    expect(JSON.stringify(rows)).toContain('alarms_by_end')
  } finally {
    await close()
  }
})

describe('a calibration that is written to a device', () => {
  const station = mkdtempSync(join(tmpdir(), 'frustum-writes-'))
  const asker = { clientId: randomUUID(), operator: 'S. Osk' }
  const other = { clientId: randomUUID(), operator: 'T. Quillan' }
  let visitId = ''
  afterAll(() => rmSync(station, { recursive: true, force: true }))
  beforeAll(async () => {
    const server = await startTestServer({ sensors: ['CH-pH-4'], folder: station })
    const opening = { position: 'CH-pH-4', procedure: 'ph-two-point', opening: {} }
    const standards = { first: 'pH7.00', second: 'pH10.01' }
    const { body: visit } = await server.ask<VisitView>('/api/visits', { ...asker, ...opening, standards })
    visitId = visit.id
    const act = async (action: string, body: object) => {
      const { status, body: said } = await server.ask(`/api/visits/${visit.id}/${action}`, { ...asker, ...body })
      expect(status, JSON.stringify(said)).toBe(200)
    }
    const type = async (step: string, value: string) => {
      await act('typed', { step, value, temperature: '22.0' })
      await act('capture', { step, earlyReason: 'Testing' })
    }
    await act('done', { step: 'hold' })
    await type('found-process', '8.05')
    await type('found-standard', '7.12')
    await act('skip', { step: 'clean', reason: 'It is clean' })
    await type('point-1', '7.12')
    await act('done', { step: 'rinse-2' })
    await type('point-2', '10.10')
    await act('decide', { step: 'result', decision: 'adjust' })
    await server.stop()
  })

  /** The visit at its step of applying, with a device that does as it is told here. */
  async function atApply(device: {
    held: CalibrationParameters
    write?: (wanted: CalibrationParameters) => Promise<void>
  }) {
    const folder = newFolder()
    cpSync(station, folder, { recursive: true })
    const { db, close } = await openDatabaseIn(folder)
    onTestFinished(close)
    const calibration = {
      read: async () => device.held,
      write: async (wanted: CalibrationParameters) => {
        await device.write?.(wanted)
        device.held = wanted
        return wanted
      },
    }
    const links = { link: () => ({ calibration, hold: null }) } as never
    const clock = { now: () => Date.now(), rate: 1 }
    const open = () => db.execute<{ operator: string }>(sql`select * from calibration_writes where settled_at is null`)
    const applied = async () =>
      (await openVisit(db, visitId)).lines.filter((l) => l.entry.type === 'applied').map((l) => l.operator)
    return { db, links, clock, writes: new CalibrationWrites(db, links, clock), open, applied }
  }
  const accepts = () => undefined

  it('is on record before the device is asked, and its outcome is recorded whoever has the visit by then', async () => {
    const device: Parameters<typeof atApply>[0] = { held: {} }
    const { db, links, clock, writes, open, applied } = await atApply(device)
    const desk = new VisitDesk(db, { ...(links as object), live: {} } as never, clock)
    let asked = 0
    device.write = async () => {
      asked++
      expect((await open()).rows).toHaveLength(1)
      await appendTakeOver()
      await expect(writes.write(visitId, other, accepts)).rejects.toMatchObject({ code: 'being-written' })
    }
    const appendTakeOver = async () => {
      const opened = await desk.open(visitId)
      await db.transaction((tx) => appendEntry(tx, opened, other, { type: 'taken-over', from: 'S. Osk' }, clock.now()))
    }
    const after = await writes.write(visitId, asker, accepts)
    expect(asked).toBe(1)
    expect(after.progress.current?.key).toBe('verify')
    expect(await applied()).toEqual(['S. Osk'])
    expect((await open()).rows).toEqual([])
  })

  it.each([
    ['took it before the cut', true],
    ['did not take it', false],
  ])('is settled after a cut by what a device holds that %s', async (_, took) => {
    const device: Parameters<typeof atApply>[0] = { held: { zero: 99, slopeEfficiency: 0.5 } }
    const { db, links, clock, writes, open, applied } = await atApply(device)
    const cut = new Promise<void>((resolve) => {
      device.write = (wanted) => {
        if (took) device.held = wanted
        resolve()
        return new Promise(() => undefined)
      }
    })
    void writes.write(visitId, asker, accepts)
    await cut
    expect((await open()).rows).toHaveLength(1)
    const restarted = new CalibrationWrites(db, links, clock)
    await restarted.settle()
    expect((await open()).rows).toEqual([])
    expect(await applied()).toEqual(took ? ['S. Osk'] : [])
  })

  it('that fails on the way is recorded where the device holds it, and refused where it does not', async () => {
    const silent = new Error('It went silent.')
    const device: Parameters<typeof atApply>[0] = { held: {} }
    const { writes, applied, open } = await atApply(device)
    device.write = () => Promise.reject(silent)
    await expect(writes.write(visitId, asker, accepts)).rejects.toMatchObject({ code: 'device-silent' })
    expect([await applied(), (await open()).rows]).toEqual([[], []])
    device.write = (wanted) => {
      device.held = wanted
      return Promise.reject(silent)
    }
    await writes.write(visitId, asker, accepts)
    expect(await applied()).toEqual(['S. Osk'])
  })
})

it('a closed visit keeps no desk', async () => {
  const site = await ownSite(LIST)
  const asker = { clientId: randomUUID(), operator }
  const { body: visit } = await site.ask<VisitView>('visits', {
    ...asker,
    position: 'T1-pH',
    procedure: 'ph-check',
    standards: { first: 'pH7.00', second: 'pH10.01' },
  })
  await site.ask(`visits/${visit.id}/abandon`, { ...asker, reason: 'Only looking' })
  await site.stop()
  const { db, close } = await openDatabaseIn(site.folder)
  try {
    let listening = 0
    const live = {
      listen: () => {
        listening++
        return () => listening--
      },
      current: () => ({ blindSince: null }),
    }
    const desks = new LiveDesks(db, live as never, site.clock)
    const messages: unknown[] = []
    const stop = await desks.watch(visit.id, (message) => messages.push(message))
    stop()
    expect(messages).toHaveLength(1)
    expect(listening).toBe(0)
  } finally {
    await close()
  }
})
