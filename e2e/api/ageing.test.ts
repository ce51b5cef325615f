import type {
  FleetView,
  PastView,
  PlanView,
  ProbeView,
  ProblemView,
  RoundsView,
  SiteView,
  WhatIfView,
} from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { startTestServer, type TestServer } from '../support/testServer.ts'

/** How sensors age, what is wrong with them and when they are visited: the demo's stories, over the wire. */

const operator = 'S. Osk'
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
})
afterAll(() => server.stop())

const ask = <T>(path: string, body?: object) => server.ask<T>(path, body)
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
    expect(row('BR-Cl-1')).toMatchObject({
      trouble: { cause: 'ion-tip-spent' },
      end: { name: 'ion tip spent', byCause: true },
    })
    expect(row('WH-pH-4')).toMatchObject({
      reference: 'steady',
      trouble: { cause: 'glass-aged' },
      end: { name: 'slope' },
    })
    expect(rows.filter((r) => r.trouble === null).length).toBeGreaterThan(12)
    for (const r of rows) expect(r.figure.cone.every((p) => Number.isFinite(p.low) && p.low <= p.high)).toBe(true)
  })
})

describe('the settling of a sensor', () => {
  it('is laid over itself for all visits of its life: each starts with all the way to go and comes to rest', async () => {
    const { health, visits } = await probe('BR-pH-1')
    expect(health.settling.length).toBeGreaterThan(0.6 * visits.length)
    const span = (visits[0]?.at ?? 0) - (visits.at(-1)?.at ?? 0)
    const dates = health.settling.map((s) => s.at)
    expect(dates.toSorted((a, b) => a - b)).toEqual(dates)
    expect((dates.at(-1) ?? 0) - (dates[0] ?? 0)).toBeGreaterThan(0.9 * span)
    const leftAt = (seconds: number, k: number) => {
      const trace = health.settling.at(k)?.trace ?? []
      return trace.find(([t]) => t >= seconds)?.[1] ?? 0
    }
    for (const k of [0, -1]) {
      expect(leftAt(0, k)).toBeCloseTo(1, 9)
      expect(Math.abs(health.settling.at(k)?.trace.at(-1)?.[1] ?? 1)).toBeLessThan(0.05)
    }
    // Its junction blocks: at half a minute ever more is still to go.
    expect(leftAt(30, -1)).toBeGreaterThan(2 * Math.abs(leftAt(30, 0)))
  })
})

describe('Rounds', () => {
  it('put what is due first, and among it what is likeliest to do harm', async () => {
    const { rows } = await get<RoundsView>('/api/rounds')
    const due = (r: (typeof rows)[number]) => ['out', 'overdue', 'due'].includes(r.driftState)
    const firstCalm = rows.findIndex((r) => !due(r))
    expect(firstCalm).toBeGreaterThan(0)
    expect(rows.slice(firstCalm).some(due)).toBe(false)
    for (const part of [rows.slice(0, firstCalm), rows.slice(firstCalm)]) {
      const risks = part.map((r) => r.risk)
      expect(risks.toSorted((a, b) => b - a)).toEqual(risks)
    }
    for (const r of rows) {
      expect(r.risk).toBeGreaterThanOrEqual(0)
      expect(r.risk).toBeLessThanOrEqual(r.consequence)
      expect(plain(r.reason)).toMatch(/^[A-Z0-9].*\.$/)
    }
  })

  it('have for every word the figures that it stands for', async () => {
    const { rows } = await get<RoundsView>('/api/rounds')
    const now = Date.now()
    for (const { position, driftState, figure, outSince } of rows) {
      const late = (now - figure.next.at) / DAY_MS
      if (driftState === 'out') {
        expect(figure.outside, position).toBeGreaterThan(0.5)
        expect(outSince, position).toBeLessThanOrEqual(now)
      } else {
        expect(figure.outside, position).toBeLessThanOrEqual(0.5)
        expect(outSince, position).toBeNull()
      }
      if (driftState === 'overdue') expect(late, position).toBeGreaterThan(0)
      if (driftState === 'holding' || driftState === 'drifting') expect(late, position).toBeLessThan(0)
    }
  })

  it('name a pair in one water that disagrees, by how much, and by how much it could by chance', async () => {
    const { disagreeing } = await get<RoundsView>('/api/rounds')
    const pair = disagreeing.find((p) => p.positions.includes('CH-pH-2'))
    expect(pair?.positions.toSorted()).toEqual(['CH-pH-2', 'CH-pH-5'])
    expect(Math.abs(pair?.difference ?? 0)).toBeGreaterThan(pair?.canTell ?? 1)
    expect(pair?.unit).toBe('pH')
    expect(pair?.off).toEqual(['CH-pH-2'])
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
      rulesOf(own, { operator, floorDays: 50, ceilingDays: 20 }),
    )
    expect(crossed.status).toBe(400)
    const kept = await ask<ProbeView>(
      '/api/probes/CH-pH-3/rules',
      rulesOf(own, { operator, method: 'fixed', fixedDays: 20 }),
    )
    expect(kept.body.figure.next).toMatchObject({ days: 20, limitedBy: 'fixed' })
    await ask('/api/probes/CH-pH-3/rules', rulesOf(own, { operator, why: 'Back' }))
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
    // Its zero creeps up, and that of an electrode without electrolyte would go down (Nernst): it is proposed second.
    expect(known.health.confirmed).toMatchObject([{ name: 'electrolyte used up', rank: 2, operator }])
    expect((await get<FleetView>('/api/probes')).confirmed).toEqual({ count: 1, first: 0, firstTwo: 1 })
  })
})

describe('the past of an out-of-tolerance visit', () => {
  it('is corrected beside the raw readings, from the day on which the error left its limit', async () => {
    const { visits, figure } = await probe('CH-pH-2')
    const off = visits.find((v) => v.adjusted && Math.abs(v.asFound ?? 0) > figure.policy.tolerance)
    const past = await get<PastView>(`/api/probes/CH-pH-2/past/${off?.id}`)
    expect(past.out).toMatchObject([{ to: past.to, largest: off?.asFound }])
    expect(past.out[0]?.from).toBeGreaterThan(past.from)
    expect(past.affected).toBeGreaterThan(5)
    expect(past.rating).toBe('excellent')
    const last = past.readings.at(-1)
    expect((last?.raw ?? 0) - (last?.corrected ?? 0)).toBeCloseTo(off?.asFound ?? 0, 1)
    const csv = await (await fetch(`${server.url}/api/probes/CH-pH-2/past/${off?.id}.csv`)).text()
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

  it('lays each trip out in time: two hands do one thing at a time, waits run beside, prep is begun before the arrival', async () => {
    const asked = Date.now()
    const { timeZone } = await get<SiteView>('/api/site')
    const hour = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', timeZone })
    const { trips } = await get<PlanView>('/api/plan')
    for (const trip of trips) {
      const { entries, lead, length, hands } = trip.timeline
      // What comes first can still be begun, and later days start at the usual hour.
      expect(trip.arrival - 60_000 * lead).toBeGreaterThanOrEqual(asked)
      if (trip.day > asked + 2 * DAY_MS) expect(hour.format(trip.arrival)).toBe('09')
      const busy = entries.filter((e) => e.hands).toSorted((a, b) => a.start - b.start)
      for (const [i, e] of busy.slice(1).entries()) expect(e.start).toBeGreaterThanOrEqual(busy[i]?.end ?? 0)
      expect(Math.max(0, -Math.min(...entries.map((e) => e.start)))).toBe(lead)
      expect(Math.max(...entries.map((e) => e.end))).toBe(length)
      expect(busy.reduce((sum, e) => sum + e.end - e.start, 0)).toBe(hands)
      // Nobody has hands on anything before the arrival.
      for (const e of busy) expect(e.start).toBeGreaterThanOrEqual(0)
      const at = new Set(entries.flatMap((e) => (e.position === null ? [] : [e.position])))
      for (const v of trip.visits) expect(at).toContain(v.position)
    }
    // A cell dries while work goes on at the others.
    const drying = trips.filter((t) => t.timeline.entries.some((e) => e.position === 'CH-S-2' && !e.hands))
    expect(drying.length).toBeGreaterThan(0)
    for (const { timeline } of drying) expect(timeline.length).toBeGreaterThan(timeline.hands)
  })

  it('begins the float of a site that calibrates at the water’s temperature an hour ahead, once for all', async () => {
    const { practices } = await get<SiteView>('/api/site')
    const teach = (temperature: string) =>
      ask<ProblemView>('/api/site/schools', { operator, practices: { ...practices, temperature } })
    expect((await teach('process')).status).toBe(200)
    const { trips } = await get<PlanView>('/api/plan')
    await teach(practices.temperature)
    const floating = trips.filter((t) => t.timeline.lead > 0)
    expect(floating.length).toBeGreaterThan(5)
    for (const { timeline } of floating) {
      const ahead = timeline.entries.filter((e) => e.start < 0)
      expect(ahead).toEqual([{ position: null, what: ahead[0]?.what, start: -timeline.lead, end: 0, hands: false }])
      expect(timeline.lead).toBeGreaterThanOrEqual(45)
    }
  })

  it('packs of each standard a lot that is good on that day, or says what speaks against it', async () => {
    const { trips } = await get<PlanView>('/api/plan')
    const lines = trips.flatMap((t) => t.kit)
    expect(lines.length).toBeGreaterThan(20)
    for (const { lot, warning, pours, milliliters } of lines) {
      expect(milliliters).toBeGreaterThanOrEqual(pours * 10)
      // Without a lot there is something to say.
      if (lot === null) expect(warning).toMatch(/\.$/)
    }
    expect(lines.some((k) => k.lot !== null && k.warning === null)).toBe(true)
    for (const t of trips) {
      const labels = t.kit.map((k) => k.label)
      expect(new Set(labels).size).toBe(labels.length)
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
    const response = await fetch(server.url + plan.calendarPath)
    expect(response.headers.get('content-type')).toMatch(/text\/calendar/)
    const text = await response.text()
    const lines = text.split('\r\n')
    expect(lines[0]).toBe('BEGIN:VCALENDAR')
    // RFC 5545, 3.1: no line longer than 75 octets.
    expect(Math.max(...lines.map((l) => Buffer.byteLength(l)))).toBeLessThanOrEqual(75)
    expect(lines.filter((l) => l === 'BEGIN:VEVENT')).toHaveLength(plan.trips.length + plan.consumables.length)
    const ids = lines.filter((l) => l.startsWith('UID:'))
    expect(new Set(ids).size).toBe(ids.length)
    expect((await fetch(`${server.url}/api/calendar/guessed.ics`)).status).toBe(404)
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
