import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { FleetView, PastView, PlanView, ProbeView, ProblemView, WhatIfView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { fleet, processAt, truthAt } from '@frustum/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startStandIns } from '../../standins/src/modbusStandIns.ts'
import { readConfig, startServer } from './index.ts'

/** How sensors age, what is wrong with them and when they are visited: the demo's stories, over the wire. */

const folder = mkdtempSync(join(tmpdir(), 'frustum-ageing-'))
const operator = 'S. Osk'
let url: string
const stops: (() => Promise<void>)[] = []

beforeAll(async () => {
  const standIns = await startStandIns({ fleet: fleet(), truthAt, processAt, port: 0 })
  const env = { FRUSTUM_DATA: folder, FRUSTUM_DEMO: '1', STANDIN_PORT: String(standIns.port) }
  const server = await startServer(readConfig(env, null))
  url = server.url
  stops.push(server.stop, standIns.close)
})

afterAll(async () => {
  for (const stop of stops) await stop()
  rmSync(folder, { recursive: true, force: true })
})

async function ask<T>(path: string, body?: object): Promise<{ status: number; body: T }> {
  const response = await fetch(url + path, {
    ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
    headers: { 'content-type': 'application/json' },
  })
  return { status: response.status, body: (await response.json()) as T }
}
const get = async <T>(path: string) => (await ask<T>(path)).body
const probe = (position: string) => get<ProbeView>(`/api/probes/${position}`)
const rulesOf = ({ figure: { policy } }: ProbeView, over: object = {}) => ({
  method: 'drift',
  tolerance: policy.tolerance,
  reliability: policy.reliability,
  floorDays: policy.floorDays,
  ceilingDays: policy.ceilingDays,
  ...over,
})

describe('the fleet', () => {
  it('knows its stories: a poisoned reference, a spent tip, an ageing glass, and many that are sound', async () => {
    const { rows } = await get<FleetView>('/api/probes')
    const row = (position: string) => rows.find((r) => r.position === position)
    expect(rows).toHaveLength(25)
    expect(row('CH-pH-2')).toMatchObject({ reference: 'failing', trouble: { cause: 'electrolyte-contaminated' } })
    expect(row('BR-Cl-1')).toMatchObject({ trouble: { cause: 'ion-tip-spent' }, end: { name: 'slope' } })
    expect(row('WH-pH-4')).toMatchObject({
      reference: 'steady',
      trouble: { cause: 'glass-aged' },
      end: { name: 'slope' },
    })
    expect(rows.filter((r) => r.trouble === null).length).toBeGreaterThan(12)
    for (const r of rows) expect(r.figure.cone.every((p) => Number.isFinite(p.low) && p.low <= p.high)).toBe(true)
  })
})

describe('a visit that misleads', () => {
  it('is excluded by hand with a reason, stays in sight, and is counted again', async () => {
    const before = await probe('CH-pH-1')
    const [newest] = before.visits
    const refused = await ask<ProblemView>(`/api/visits/${newest?.id}/exclusion`, {
      operator,
      excluded: true,
      reason: ' ',
    })
    expect(refused.status).toBe(400)
    const exclusion = { operator, excluded: true, reason: 'Wrong beaker' }
    const { body: out } = await ask<ProbeView>(`/api/visits/${newest?.id}/exclusion`, exclusion)
    expect(out.setAside).toMatchObject([{ id: newest?.id, sentence: 'Excluded by hand: Wrong beaker' }])
    expect(out.figure.from).toBeLessThan(before.figure.from)
    expect(out.visits).toHaveLength(before.visits.length)
    const again = { operator, excluded: false, reason: 'It was right' }
    const { body: back } = await ask<ProbeView>(`/api/visits/${newest?.id}/exclusion`, again)
    expect(back.setAside).toEqual([])
    expect(back.figure.next.at).toBe(before.figure.next.at)
  })
})

describe('what if', () => {
  it('moves date and effort with tolerance, reliability, policy and process value, and writes nothing', async () => {
    const own = await probe('CH-pH-5')
    const ask1 = async (over: object) =>
      (await ask<WhatIfView>('/api/probes/CH-pH-5/what-if', rulesOf(own, { ceilingDays: 700, floorDays: 0, ...over })))
        .body
    const [base, wide, sure, far] = await Promise.all([
      ask1({}),
      ask1({ tolerance: 0.3 }),
      ask1({ reliability: 0.99 }),
      ask1({ processValue: 5 }),
    ])
    expect(wide?.next.days).toBeGreaterThan(base?.next.days as number)
    expect(sure?.next.days).toBeLessThan(base?.next.days as number)
    expect(far?.next.days).not.toBe(base?.next.days)
    expect((await ask1({ method: 'fixed', fixedDays: 28 })).visitsPerYear).toBeCloseTo(365 / 28, 6)
    expect((await probe('CH-pH-5')).figure.next.at).toBe(own.figure.next.at)
  })

  it('refuses a tolerance of zero and a ceiling below the floor, and keeps rules that were asked to hold', async () => {
    const own = await probe('CH-pH-3')
    const zero = await ask<ProblemView>('/api/probes/CH-pH-3/what-if', rulesOf(own, { tolerance: 0 }))
    expect(zero).toMatchObject({ status: 400, body: { fields: { tolerance: 'The tolerance must be above zero.' } } })
    const crossed = await ask<ProblemView>(
      '/api/probes/CH-pH-3/rules',
      rulesOf(own, { floorDays: 50, ceilingDays: 20 }),
    )
    expect(crossed.status).toBe(400)
    const kept = await ask<ProbeView>('/api/probes/CH-pH-3/rules', rulesOf(own, { method: 'fixed', fixedDays: 20 }))
    expect(kept.body.figure.next).toMatchObject({ days: 20, limitedBy: 'fixed' })
    await ask('/api/probes/CH-pH-3/rules', rulesOf(own))
  })
})

describe('a diagnosis', () => {
  it('takes in the outcome of a test, and what it turned out to be beside what was proposed', async () => {
    const before = await probe('CH-pH-4')
    const likely = (p: ProbeView, cause: string) => p.health.ranked.find((r) => r.cause === cause)?.probability ?? 0
    const test = { operator, feature: 'afterRefill', answer: 'comes back' }
    const { body: after } = await ask<ProbeView>('/api/probes/CH-pH-4/tests', test)
    expect(likely(after, 'electrolyte-used-up')).toBeGreaterThan(likely(before, 'electrolyte-used-up'))
    expect(after.health.tested).toEqual(['afterRefill'])
    const wrong = await ask('/api/probes/CH-pH-4/tests', { operator, feature: 'afterRefill', answer: 'is wrong' })
    expect(wrong.status).toBe(400)
    const cause = { operator, cause: 'electrolyte-used-up' }
    const { body: known } = await ask<ProbeView>('/api/probes/CH-pH-4/cause', cause)
    expect(known.health.confirmed).toMatchObject([{ name: 'electrolyte used up', rank: 1, operator }])
    expect((await get<FleetView>('/api/probes')).confirmed).toEqual({ count: 1, first: 1, firstTwo: 1 })
  })
})

describe('the past of an out-of-tolerance visit', () => {
  it('is corrected beside the raw readings, from the day on which the error left its limit', async () => {
    const { visits, figure } = await probe('CH-pH-2')
    const off = visits.find((v) => v.adjusted && Math.abs(v.asFound ?? 0) > figure.policy.tolerance)
    const past = await get<PastView>(`/api/probes/CH-pH-2/past/${off?.id}`)
    expect(past.since).toBeGreaterThan(past.from)
    expect(past.affected).toBeGreaterThan(5)
    expect(past.rating).toBe('excellent')
    const last = past.readings.at(-1)
    expect((last?.raw ?? 0) - (last?.corrected ?? 0)).toBeCloseTo(off?.asFound ?? 0, 1)
    const csv = await (await fetch(`${url}/api/probes/CH-pH-2/past/${off?.id}.csv`)).text()
    expect(csv.split('\r\n')[0]).toBe('at,position,raw,corrected,unit,out_of_tolerance,rating')
    expect(csv.split('\r\n')).toHaveLength(past.readings.length + 1)
    const first = await ask<ProblemView>(`/api/probes/CH-pH-2/past/${visits.at(-1)?.id}`)
    expect(first).toMatchObject({ status: 409, body: { code: 'nothing-before' } })
  })
})

describe('the plan', () => {
  it('visits every sensor within its window with fewer trips than each on its own date', async () => {
    const plan = await get<PlanView>('/api/plan')
    const planned = new Set(plan.trips.flatMap((t) => t.visits.map((v) => v.position)))
    for (const [position, risks] of Object.entries(plan.risks)) {
      expect(risks).toHaveLength(plan.daysAhead + 1)
      const { figure } = await probe(position)
      if (figure.next.at < plan.today + 80 * DAY_MS) expect(planned).toContain(position)
    }
    expect(plan.trips.length).toBeLessThan(0.7 * plan.tripsAlone)
    for (const t of plan.trips) {
      expect(t.kit.every((k) => k.milliliters > 0)).toBe(true)
      for (const v of t.visits) expect(t.day).toBeLessThanOrEqual(Math.max(v.due, plan.today))
    }
  })

  it('puts a sensor on another day by hand and back, but not beyond the authority’s rule or into the past', async () => {
    const plan = await get<PlanView>('/api/plan')
    const to = plan.today + 9 * DAY_MS
    const move = (positions: string[], day: number | null) =>
      ask<PlanView>('/api/plan/move', { operator, positions, to: day })
    const { body: moved } = await move(['CH-pH-4'], to)
    const there = moved.trips.find((t) => t.visits.some((v) => v.position === 'CH-pH-4' && v.moved))
    expect(Math.abs((there?.day ?? 0) - to)).toBeLessThan(DAY_MS)
    const { body: back } = await move(['CH-pH-4'], null)
    expect(back.trips.map((t) => t.id)).toEqual(plan.trips.map((t) => t.id))
    expect(await move(['BR-FC-1'], plan.today + 30 * DAY_MS)).toMatchObject({
      status: 409,
      body: { code: 'authority' },
    })
    expect((await move(['CH-pH-4'], plan.today - 5 * DAY_MS)).status).toBe(400)
    expect((await move(['nowhere'], to)).status).toBe(404)
  })

  it('is a calendar for whoever knows its address, by RFC 5545', async () => {
    const plan = await get<PlanView>('/api/plan')
    const response = await fetch(url + plan.calendarPath)
    expect(response.headers.get('content-type')).toMatch(/text\/calendar/)
    const text = await response.text()
    const lines = text.split('\r\n')
    expect(lines[0]).toBe('BEGIN:VCALENDAR')
    // RFC 5545, 3.1: no line longer than 75 octets.
    expect(Math.max(...lines.map((l) => Buffer.byteLength(l)))).toBeLessThanOrEqual(75)
    expect(lines.filter((l) => l === 'BEGIN:VEVENT')).toHaveLength(plan.trips.length + plan.consumables.length)
    const ids = lines.filter((l) => l.startsWith('UID:'))
    expect(new Set(ids).size).toBe(ids.length)
    expect((await fetch(`${url}/api/calendar/guessed.ics`)).status).toBe(404)
  })

  it('moves the date of a consumable on when it was renewed', async () => {
    const { consumables } = await get<PlanView>('/api/plan')
    const [first] = consumables
    const { body } = await ask<PlanView>(`/api/plan/consumables/${first?.id}/renew`, { operator })
    const after = body.consumables.find((c) => c.id === first?.id)
    expect(after?.due).toBeGreaterThan((first?.due ?? 0) + DAY_MS)
    expect((await ask('/api/plan/consumables/999/renew', { operator })).status).toBe(404)
  })
})
