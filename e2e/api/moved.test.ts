import { randomUUID } from 'node:crypto'
import type {
  PlanView,
  ProbeView,
  ProblemView,
  RoundsView,
  StartingView,
  VisitView,
  WhatIfView,
} from '@frustum/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** What happens to sensors between visits: a device loses its numbers, hours are counted, a sensor goes elsewhere. */

const asker = { clientId: randomUUID(), operator: 'S. Osk' }
const { operator } = asker
const author = { operator: 'S. Osk', why: 'Testing' }
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
})
afterAll(() => server.stop())

const ask = <T>(path: string, body?: object) => server.ask<T>(path, body)
const probe = async (position: string) => (await ask<ProbeView>(`/api/probes/${position}`)).body
const likely = (p: ProbeView, cause: string) => p.health.ranked.find((r) => r.cause === cause)?.probability ?? 0

/** The numbers are looked at when a visit begins; this one is ended at once. */
async function lookIn(position: string) {
  const started = await ask<VisitView>('/api/visits', {
    ...asker,
    position,
    procedure: 'ph-two-point',
    standards: { first: 'pH7.00', second: 'pH10.01' },
    opening: {},
  })
  expect(started.status).toBe(201)
  await ask(`/api/visits/${started.body.id}/abandon`, { ...asker, reason: 'Only looking' })
}

describe('a device that lost its numbers', () => {
  const position = 'CH-pH-5'

  it('is believed as long as it holds what it was given', async () => {
    const before = await probe(position)
    await lookIn(position)
    const after = await probe(position)
    expect(after.numbersChanged).toBeNull()
    expect(after.events).toEqual(before.events)
    expect(after.activeCalibration).toEqual(before.activeCalibration)
  })

  it('is noticed, and what it shows is known to be off by what the numbers did', async () => {
    const before = await probe(position)
    await ask(`/api/extensions/demo/standins/${position}`, { keyIn: { zero: 30, slopeEfficiency: 1 } })
    await lookIn(position)
    const after = await probe(position)
    expect(after.numbersChanged?.given).toEqual(before.activeCalibration)
    expect(after.activeCalibration).toMatchObject({ zero: 30, slopeEfficiency: 1 })
    expect(after.events.at(-1)?.kind).toBe('numbers-changed')
    // 30 mV and more are half a pH: it is out now, with certainty, and without a visit.
    expect(before.driftState).not.toBe('out')
    expect(after.driftState).toBe('out')
    expect(after.figure.outside).toBeGreaterThan(0.99)
    expect(likely(after, 'device-reset')).toBeGreaterThan(0.5)
    const rounds = (await ask<RoundsView>('/api/rounds')).body
    const row = rounds.rows.slice(0, 4).find((r) => r.position === position)
    expect(plain(row?.reason)).toMatch(/^The calibration in its device changed: it shows 0\.5\d pH too much\./)
    // Not since the visit before, nor since its date: since the numbers went.
    expect(Math.abs((row?.outSince ?? 0) - Date.now())).toBeLessThan(60_000)
    expect(row?.figure.next).toMatchObject({ limitedBy: 'numbers' })
    const plan = (await ask<PlanView>('/api/plan')).body
    const going = plan.trips.filter((t) => t.visits.some((v) => v.position === position)).map((t) => t.day)
    expect(going[0]).toBe(plan.today)
    // Once the numbers are right it is as calm as it was.
    expect(going.length).toBeLessThanOrEqual(before.figure.next.days > 40 ? 4 : 12)
    // Other rules do not make the numbers right, in this water or in another; a year's work is that of a sound device.
    const { tolerance, reliability, floorDays, ceilingDays } = before.figure.policy
    for (const processValue of [before.processValue, before.processValue - 0.4]) {
      const rules = { method: 'drift', tolerance, reliability, floorDays, ceilingDays, processValue }
      const { body: other } = await ask<WhatIfView>(`/api/probes/${position}/what-if`, rules)
      expect(other.next.limitedBy).toBe('numbers')
      expect(other.next.usualDays).toBeGreaterThan(2)
      expect(other.visitsPerYear).toBeCloseTo(365 / other.next.usualDays, 9)
    }
    const starting = (await ask<StartingView>(`/api/probes/${position}/starting`)).body
    expect(plain(starting.numbersChanged ?? '')).toMatch(/Restore the calibration/)
  })

  it('is given them back, and is what it was; there is nothing to give back twice', async () => {
    const { body } = await ask<ProbeView>(`/api/probes/${position}/numbers`, { operator })
    expect(body.numbersChanged).toBeNull()
    expect(body.driftState).not.toBe('out')
    expect(body.figure.outside).toBeLessThan(0.5)
    expect(body.events.at(-1)).toMatchObject({ kind: 'numbers-given-back' })
    const again = await ask<ProblemView>(`/api/probes/${position}/numbers`, { operator })
    expect(again).toMatchObject({ status: 409, body: { code: 'numbers-as-left' } })
    await lookIn(position)
    expect((await probe(position)).numbersChanged).toBeNull()
  })
})

describe('hours in use', () => {
  it('are counted from the meter, which never runs backwards unless it was changed', async () => {
    const position = 'WH-pH-1'
    const own = (await probe(position)).figure.policy
    const rules = {
      method: 'in-use',
      tolerance: own.tolerance,
      reliability: own.reliability,
      floorDays: 0,
      ceilingDays: 400,
      inUseHours: 200,
      hoursPerDay: 24,
    }
    await ask(`/api/probes/${position}/rules`, { ...rules, ...author })
    const read = (hours: number, more: object = {}) =>
      ask<ProbeView & ProblemView>(`/api/probes/${position}/hours`, { operator, hours, ...more })
    expect((await read(1200)).body.hourMeter).toMatchObject([{ hours: 1200 }])
    expect(await read(900)).toMatchObject({ status: 409, body: { code: 'meter-runs-backwards' } })
    expect((await read(-4)).status).toBe(400)
    const { body } = await read(3, { newMeter: true })
    expect(body.hourMeter.map((r) => r.hours)).toEqual([3, 1200])
    // Two readings of the same minute tell no pace: the stated hours a day hold on.
    expect(body.figure.policy.hoursCounted).toBeNull()
    expect(body.figure.next).toMatchObject({ days: 8, limitedBy: 'in-use' })
    await ask(`/api/probes/${position}/rules`, {
      ...author,
      ...rules,
      method: 'drift',
      ceilingDays: own.ceilingDays,
      floorDays: 7,
    })
  })
})

describe('check first', () => {
  it('is a rule of the position: Rounds, the Bench and the Plan propose by it', async () => {
    const { rows } = (await ask<RoundsView>('/api/rounds')).body
    const sound = rows.find((r) => r.kind === 'ph' && r.driftState === 'holding' && !r.openVisit)
    const position = sound?.position as string
    const { policy } = (await probe(position)).figure
    const rules = {
      method: 'drift',
      tolerance: policy.tolerance,
      reliability: policy.reliability,
      floorDays: policy.floorDays,
      ceilingDays: policy.ceilingDays,
    }
    const proposals = async (checkFirst: string) => {
      await ask(`/api/probes/${position}/rules`, { ...rules, ...author, checkFirst })
      const starting = (await ask<StartingView>(`/api/probes/${position}/starting`)).body
      const plan = (await ask<PlanView>('/api/plan')).body
      const planned = plan.trips.flatMap((t) => t.visits).find((v) => v.position === position)
      const row = await probe(position)
      return { bench: starting.procedures.find((p) => p.proposed)?.id, plan: planned?.procedure, verb: row.verb }
    }
    const check = await proposals('when-sound')
    expect(check).toMatchObject({ bench: 'ph-check', verb: 'Check' })
    const calibrate = await proposals('never')
    expect(calibrate.bench).not.toBe('ph-check')
    expect(calibrate.verb).toBe('Calibrate')
    if (check.plan) expect(calibrate.plan).not.toBe(check.plan)
    expect(await proposals('always')).toEqual(check)
    expect((await ask(`/api/probes/${position}/rules`, { ...rules, ...author, checkFirst: 'sometimes' })).status).toBe(
      400,
    )
    await ask(`/api/probes/${position}/rules`, { ...rules, ...author })
  })
})

describe('a sensor that goes to another position', () => {
  const commission = (position: string, serial: string, more: object = {}) =>
    ask<VisitView & ProblemView>('/api/visits', {
      ...asker,
      position,
      procedure: 'commission-ph-two-point',
      standards: { first: 'pH7.00', second: 'pH10.01' },
      opening: { serial, model: 'Glass pH, gel', ...more },
    })

  it('cannot be at two positions at once', async () => {
    const { serialNumber } = await probe('CH-pH-3')
    const twice = await commission('CH-pH-1', serialNumber, { cause: 'by-date' })
    expect(twice).toMatchObject({ status: 409, body: { code: 'installed-elsewhere' } })
    expect(twice.body.fields?.serial).toBe('At CH-pH-3 now.')
    expect((await probe('CH-pH-1')).serialNumber).not.toBe(serialNumber)
  })

  it('brings its past along: slope and zero go on, the forecast knows it, and the page says where from', async () => {
    const old = await probe('BR-pH-2')
    // Another sensor takes its place, and it takes that of CH-pH-1.
    expect((await commission('BR-pH-2', 'NEW-1', { cause: 'by-date' })).status).toBe(201)
    expect((await probe('BR-pH-2')).cameFrom).toEqual([])
    expect((await commission('CH-pH-1', old.serialNumber, { cause: 'by-date' })).status).toBe(201)
    const moved = await probe('CH-pH-1')
    expect(moved.cameFrom.map((c) => c.position)).toEqual(['BR-pH-2'])
    expect(moved.events.at(-1)).toMatchObject({ kind: 'moved' })
    expect(moved.calibrations.length).toBe(old.calibrations.length)
    expect(moved.health.settlingSeconds.length).toBe(old.health.settlingSeconds.length)
    // It drifts where it is now as it did there: 0.025 mV a day is 0.013 pH a month, upwards as before.
    expect(plain(moved.figure.next.reason)).not.toContain('Nothing is known of its drift yet')
    expect(moved.visits).toEqual([])
    for (const p of moved.figure.cone) expect(Number.isFinite(p.mean)).toBe(true)
  })
})
