import type { ReportView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { operator, ownSite } from '../support/ownSite.ts'

/** What an inspector is shown, against visits that were written down by hand. */

const LIST = 'code,kind,place,water,serial\nT1-pH,pH,Hall,nutrient,0417\nT2-pH,pH,Hall,nutrient,0418'

/** As found at pH 7 and 10 on these days; the tolerance in a nutrient solution is 0.2, the longest interval 60 days. */
const PAST = [
  'Date;Tag;pH 7 before;pH 10 before;pH 7 after;pH 10 after;By',
  '02.03.2025;T1-pH;7,02;10,02;7,00;10,01;AF',
  '20.04.2025;T1-pH;7,06;10,05;7,00;10,01;BR',
  '25.08.2025;T1-pH;7,52;10,60;7,00;10,01;AF',
  '25.08.2025;T2-pH;7,01;10,02;7,00;10,01;AF',
].join('\n')

const DAY = 86_400_000
const day = (text: string) => Date.parse(`${text}T00:00:00+02:00`)

it('says how all sensors stood on a day, and what happened in a span', async () => {
  const site = await ownSite(LIST)
  const { body: rig } = await site.ask<{ positions: { id: number; code: string }[] }>('rig')
  const t1 = rig.positions.find((p) => p.code === 'T1-pH')
  const rules = {
    operator,
    values: { ceilingDays: '60', tolerance: '0.2', floorDays: '7' },
    seen: {},
    mode: 'wrong',
    why: '=1+1 by the permit',
  }
  expect((await site.ask(`rig/position/${t1?.id}`, rules)).status).toBe(200)
  expect((await site.bring(PAST, { take: true })).body.taken).toBe(4)
  const report = (query: string) => site.get<ReportView>(`report?${query}`)

  const summer = await report('on=2025-06-01&from=2025-04-01&to=2025-08-31')
  expect([summer.from, summer.to, summer.on]).toEqual([day('2025-04-01'), day('2025-09-01'), day('2025-06-02')])
  // On 1 June: T1 as found in April, and seen again in August. A sensor stands there since it was taken into use.
  const [one] = summer.status.filter((s) => s.position === 'T1-pH')
  expect(one?.last).toMatchObject({ operator: 'BR', found: 'within', name: expect.any(String), corrected: null })
  expect(one?.next).toEqual({ at: expect.any(Number), made: true })
  expect(summer.visits.map((v) => [v.position, v.operator, v.found])).toEqual([
    ['T1-pH', 'BR', 'within'],
    ['T1-pH', 'AF', 'outside'],
    ['T2-pH', 'AF', 'within'],
  ])
  const outside = summer.visits.find((v) => v.found === 'outside')
  expect(outside?.asFound?.value).toBeGreaterThan(0.2)
  // A straight line from what was left in April to what was found in August: beyond 0.2 for the rest of it.
  const [left, found] = [one?.last?.asLeft?.value ?? 9, outside?.asFound?.value ?? 0]
  const between = ((outside?.at ?? 0) - (one?.last?.at ?? 0)) / DAY
  expect(outside?.corrected?.days).toBeCloseTo(between * (1 - (0.2 - left) / (found - left)), 0)
  expect(outside?.corrected?.affected).toBe(0)
  // By hand: 20 April and 60 days is 19 June; 25 August is 67 days later.
  expect(summer.missed).toHaveLength(1)
  expect(summer.missed[0]).toMatchObject({ position: 'T1-pH', allowedDays: 60, byAuthority: false, lateDays: 67 })
  expect(summer.people).toEqual([
    { name: 'AF', visits: 2 },
    { name: 'BR', visits: 1 },
  ])
  expect(summer.changes).toEqual([])

  // Today: the next date is that of the plan; since August nobody came; the rule was changed today.
  const now = await report('from=2025-09-01')
  expect(now.status.find((s) => s.position === 'T1-pH')?.next?.made).toBe(false)
  expect(now.missed.find((m) => m.position === 'T1-pH')).toMatchObject({ made: null })
  expect(now.changes.map((c) => c.position)).toContain('T1-pH, Hall')
  expect(now.changes.some((c) => c.why === '=1+1 by the permit')).toBe(true)

  // One that goes to storage is late no longer than until then; a visit that is abandoned is no last visit.
  const asker = { clientId: '0d2b9a52-6b0f-4f0e-9d83-4a8a8c1f2b10', operator }
  const begun = {
    ...asker,
    position: 'T2-pH',
    procedure: 'ph-check',
    standards: { first: 'pH7.00', second: 'pH10.01' },
    opening: {},
  }
  const visit = await site.ask<{ id: string }>('visits', begun)
  expect(visit.status, JSON.stringify(visit.body)).toBe(201)
  expect((await site.ask(`visits/${visit.body.id}/abandon`, { ...asker, reason: 'only to look' })).status).toBe(200)
  const lateOf = async () => (await report('from=2025-09-01')).missed.find((m) => m.position === 'T1-pH')?.lateDays
  const late = await lateOf()
  expect((await site.ask(`rig/positions/${t1?.id}/sensor`, { operator, storage: 'KCl' })).status).toBe(200)
  site.clock.set(site.clock.now() + 30 * DAY)
  const later = await report('from=2025-09-01')
  expect([late, later.missed.find((m) => m.position === 'T1-pH')?.lateDays]).toEqual([expect.any(Number), late])
  expect(later.missed.find((m) => m.position === 'T2-pH')?.lateDays ?? 30).toBeGreaterThanOrEqual(30)
  expect(later.status.map((s) => s.position)).toEqual(['T2-pH'])
  expect(later.status[0]?.last?.operator).toBe('AF')

  // The rules of today change no record.
  await site.ask(`rig/position/${t1?.id}`, { ...rules, values: { tolerance: '2' } })
  expect((await report('from=2025-04-01&to=2025-08-31')).visits.map((v) => v.found)).toEqual([
    'within',
    'outside',
    'within',
  ])

  const csv = await (await fetch(`${site.url()}/api/report.csv?from=2025-04-01&to=2025-08-31`)).text()
  expect(csv).toContain('OUTSIDE')
  const formula = await (await fetch(`${site.url()}/api/report.csv?from=2025-09-01`)).text()
  expect(formula).toContain(`"'=1+1 by the permit"`)
  // A figure is a number to compute with, its unit at the end of the row.
  expect(csv).toMatch(/,Adjusted,0\.\d+,OUTSIDE,-?0(\.\d+)?,AF,,pH/)
  const pdf = Buffer.from(
    await (await fetch(`${site.url()}/api/report.pdf?from=2025-04-01&to=2025-08-31`)).arrayBuffer(),
  )
  expect(pdf.subarray(0, 5).toString()).toBe('%PDF-')
  for (const wrong of [
    'on=2025-02-29',
    'from=0000-01-01',
    'from=2026-01-01&to=2025-01-01',
    'from=1900-01-01',
    'to=9999-12-31',
  ]) {
    expect([wrong, (await site.ask(`report?${wrong}`)).status]).toEqual([wrong, 400])
  }
})
