import type { Mapping, ProblemView, SeriesView, SiteView, VisitView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { parquetReadObjects } from 'hyparquet'
import { expect, it } from 'vitest'
import { operator, ownSite } from '../support/ownSite.ts'

const TOKEN = 'kQ3x9mZ7pL1vT5rN8wB2yC4d'
const EVERY_MS = 10 * 60_000
const field = (name: string) => ({ at: { field: name }, unit: '', scale: 1, offset: 0 })
const MAPPING: Mapping = { countsFrom: 0, format: 'senml', value: field('ph'), temperature: field('temp') }

it('what was read is looked at from an hour to years: bins, their figures, what it was of, and a table', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater')
  await site.ask('lines/1/token', { operator, token: TOKEN })
  await site.ask('lines/1', { operator, protocol: 'push', mapping: MAPPING })
  const begin = site.clock.now()
  site.clock.set(begin + 20 * DAY_MS)
  const now = site.clock.now()
  const valueAt = (at: number) => 8 + 0.2 * Math.sin((2 * Math.PI * at) / DAY_MS)
  const all: { at: number; ph: number }[] = []
  for (let at = begin; at < now; at += EVERY_MS) all.push({ at, ph: valueAt(at) })
  const send = (some: typeof all) =>
    fetch(`${site.url()}/api/ingest/${TOKEN}`, {
      method: 'POST',
      body: JSON.stringify(
        some.flatMap(({ at, ph }) => [
          { n: 'ph', t: at / 1000, v: ph },
          { n: 'temp', t: at / 1000, v: 25 },
        ]),
      ),
    })
  expect((await send(all)).status).toBe(200)
  const look = (from: number, to: number, most: number) =>
    site.get<SeriesView>(`probes/T1-pH/series?from=${from}&to=${to}&most=${most}&ordinary`)

  for (const [days, most] of [
    [1, 600],
    [7, 300],
    [20, 40],
    [3000, 100],
  ] as const) {
    const from = now - days * DAY_MS
    const series = await look(from, now, most)
    const there = all.filter(({ at }) => at >= from)
    expect(series.bins.length).toBeLessThanOrEqual(most + 1)
    for (const bin of series.bins) {
      const values = all
        .filter(({ at }) => at >= Math.max(bin.at, begin) && at < bin.at + series.binMs)
        .map((r) => r.ph)
      // Of a bin that begins before the span what lies in the span alone, where single readings are looked at.
      if (bin.at < from) continue
      expect(bin.good).toBe(values.length)
      expect(bin.min).toBeCloseTo(Math.min(...values), 5)
      expect(bin.max).toBeCloseTo(Math.max(...values), 5)
      expect(bin.mean).toBeCloseTo(values.reduce((sum, v) => sum + v, 0) / values.length, 5)
      expect(bin.temperature).toBeCloseTo(25, 5)
    }
    expect(series.bins.reduce((sum, b) => sum + b.good, 0)).toBeGreaterThanOrEqual(there.length)
    expect(series.whole?.max).toBeCloseTo(8.2, 2)
  }
  // Every hour of the day is known, and is as wide as it swings within the hour.
  const { ordinary, known } = await look(now - DAY_MS, now, 100)
  expect(ordinary.map((o) => o.hour)).toEqual(Array.from({ length: 24 }, (_, hour) => hour))
  expect(Math.max(...ordinary.map((o) => o.high - o.low))).toBeLessThan(0.06)
  expect(known).toEqual({ from: begin, to: expect.any(Number) })

  // In a visit the sensor is somewhere else: what comes of it is kept, and is no reading of the water.
  const asker = { operator, clientId: '4ef56a4d-db29-4d02-ba8b-47561f3ae86d' }
  const visit = await site.ask<VisitView>('visits', {
    ...asker,
    position: 'T1-pH',
    procedure: 'self-ph-two-point',
    standards: { first: 'pH7.00', second: 'pH10.01' },
    opening: {},
  })
  expect(visit.status).toBe(201)
  site.clock.set(now + 2 * EVERY_MS)
  await send([{ at: now + EVERY_MS, ph: 4.01 }])
  const during = await look(now - DAY_MS, site.clock.now(), 600)
  expect(during.whole?.min).toBeGreaterThan(7.5)
  expect(during.otherwise).toEqual([{ from: now + EVERY_MS, to: now + EVERY_MS, state: 'in-visit' }])
  expect(during.visits).toMatchObject([{ id: visit.body.id }])

  const csv = await (
    await fetch(`${site.url()}/api/probes/T1-pH/readings.csv?from=${now - DAY_MS}&to=${now}&most=600`)
  ).text()
  const rows = csv.trim().split('\r\n')
  expect(rows[0]).toContain('shown, pH')
  expect(rows).toHaveLength(1 + 144)
  expect(rows[1]).toContain(new Date(now - DAY_MS).toISOString())
  // The same in the other formats: read back by a program of its own, and as the pack of RFC 8428 that it should be.
  const file = async (format: string, every: string) => {
    const url = `${site.url()}/api/probes/T1-pH/readings.${format}?from=${now - DAY_MS}&to=${now}&every=${every}`
    const answer = await fetch(url)
    expect(answer.status).toBe(200)
    return answer.arrayBuffer()
  }
  const parquet = await parquetReadObjects({ file: await file('parquet', 'readings') })
  expect(parquet).toHaveLength(144)
  parquet.forEach((row, i) => {
    const [time, shown] = (rows[i + 1] ?? '').split(',')
    expect((row.time as Date).toISOString()).toBe(time)
    expect(row['shown, pH']).toBe(Number(shown))
  })
  const hours = await parquetReadObjects({ file: await file('parquet', 'hours') })
  expect(hours.reduce((sum, row) => sum + (row.readings as number), 0)).toBe(144)
  const pack = JSON.parse(new TextDecoder().decode(await file('senml', 'readings')))
  expect(pack.filter((one: { n: string }) => one.n === 'T1-pH')).toHaveLength(144)
  expect(pack[0]).toEqual({ n: 'T1-pH', u: 'pH', t: (now - DAY_MS) / 1000, v: Number((rows[1] ?? '').split(',')[1]) })
  expect((await site.ask(`probes/T1-pH/readings.exe`)).status).toBe(404)
  expect((await site.ask(`probes/T1-pH/readings.csv?every=moons`)).status).toBe(400)
  for (const span of [
    'from=7700000000000000&to=7700000086400000',
    'from=-7900000000000000&to=-7899999913600000',
    'from=9&to=3',
    'from=x&to=3',
    'most=0',
    'to=1e300',
    `from=-1e15&to=1e15`,
  ])
    expect((await site.ask<ProblemView>(`probes/T1-pH/series?${span}`)).status).toBe(400)
})

it('an error beyond the tolerance is taken out of the readings before it, beside what was read', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient', { at: Date.UTC(2026, 3, 1) })
  const [begin, found] = [Date.UTC(2026, 1, 1, 11), Date.UTC(2026, 2, 3, 11)]
  const lines = ['time,T1-pH']
  for (let at = begin - 10 * DAY_MS; at < found + 10 * DAY_MS; at += 3_600_000)
    lines.push(`${new Date(at).toISOString()},6.00`)
  expect((await site.log(lines.join('\n'))).status).toBe(200)
  // 0.30 too high at both buffers, so at the water's pH as well; within 0.02 at the visit before.
  const past = [
    'Date;Tag;pH 7 before;pH 10 before;pH 7 after;pH 10 after;By',
    '01.02.2026 12:00;T1-pH;7,02;10,03;7,00;10,01;AF',
    '03.03.2026 12:00;T1-pH;7,30;10,31;7,00;10,01;AF',
  ].join('\n')
  expect((await site.bring(past, { take: true, dateOrder: 'dmy' })).body).toMatchObject({ taken: 2 })

  const span = `from=${begin - 20 * DAY_MS}&to=${found + 20 * DAY_MS}`
  const series = await site.get<SeriesView>(`probes/T1-pH/series?${span}&most=100`)
  expect(series.bins.every((b) => b.mean === 6)).toBe(true)
  expect(series.corrected).toHaveLength(1)
  const [one] = series.corrected
  expect(one).toMatchObject({ from: begin, to: found, visit: expect.any(String) })
  expect(one?.found).toBeCloseTo(0.3, 2)
  expect(one?.points.length).toBeGreaterThan(25)
  // The error grows in a straight line to what was found, from what was left: nearly nothing.
  const left = 6 - (one?.points[0]?.value ?? 0)
  expect(Math.abs(left)).toBeLessThan(0.03)
  const [first = 0] = one?.points.map((p) => p.at) ?? []
  const rate = ((one?.found ?? 0) - left) / (found - first)
  for (const { at, value } of one?.points ?? []) expect(value).toBeCloseTo(6 - left - rate * (at - first), 6)
})

it('of what is kept no longer, hours and days still tell', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,nutrient', { at: Date.UTC(2026, 3, 1) })
  const from = Date.UTC(2025, 2, 1)
  const lines = ['time,T1-pH']
  for (let at = from; at < from + 3 * DAY_MS; at += 20 * 60_000)
    lines.push(`${new Date(at).toISOString()},${at % 3_600_000 === 0 ? 6 : 6.3}`)
  expect((await site.log(lines.join('\n'))).status).toBe(200)
  const look = (most: number) =>
    site.get<SeriesView>(`probes/T1-pH/series?from=${from}&to=${from + 3 * DAY_MS}&most=${most}`)
  const keep = (readingsDays: number | null, hoursDays: number | null) =>
    site.ask<SiteView>('site/keeping', { operator, readingsDays, hoursDays })
  expect((await look(4000)).bins).toHaveLength(3 * 72)
  expect((await keep(10, null)).status).toBe(400)
  expect((await keep(300, 100)).body.fields).toHaveProperty('hoursDays')
  const kept = await keep(300, null)
  expect(kept.body.keeping).toEqual({ readingsDays: 300, hoursDays: null })
  const hours = await look(4000)
  expect(hours.bins).toHaveLength(3 * 24)
  expect(hours.whole).toMatchObject({ good: 3 * 72, min: 6, max: 6.3 })
  await keep(300, 300)
  const days = await look(4000)
  expect(days.bins.map((b) => b.good)).toEqual([72, 72, 72])
  days.bins.forEach(({ at }, i) => {
    expect(Math.abs(at + days.binMs / 2 - from - (i + 0.5) * DAY_MS)).toBeLessThanOrEqual(days.binMs)
  })
  expect(days.whole).toMatchObject({ good: 3 * 72, min: 6, max: 6.3 })
  expect((await site.get<SiteView>('site')).changes[0]).toMatchObject({ operator, undo: false })
})
