import type { ProbeView, RoundsView, SeriesView, WalkOutcome, WalkPlaceView, WalkView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { plain } from '../../core/src/testing/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

const DAY = 86_400_000
const PAST = [
  'Date;Tag;pH 7 before;pH 10 before;pH 7 after;pH 10 after;By',
  '20.11.2025;T1-pH;7,02;10,02;7,00;10,00;AF',
  '20.12.2025;T1-pH;7,03;10,02;7,00;10,00;AF',
].join('\n')
const METER = { uncertainty: 0.04, with: 'Hand meter 3' }

it('a walk round keeps what the displays showed, alarms on it, and what stood beside them enters the forecast', async () => {
  const site = await ownSite(
    'code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater\nT3-pH,pH,Yard,seawater',
  )
  expect((await site.bring(PAST, { take: true })).body.taken).toBe(2)
  const { clock } = site
  const [hall, yard] = await site.get<WalkPlaceView[]>('walks')
  expect(hall).toMatchObject({ name: 'Hall', displays: 2, lastAt: null })
  const walk = await site.get<WalkView>(`walks/${hall?.id}`)
  expect(walk.displays).toMatchObject([
    { position: 'T1-pH', unit: 'pH', decimals: 2, last: null },
    { position: 'T2-pH' },
  ])
  const keep = (readings: object[], more = {}) =>
    site.ask<WalkOutcome>(`walks/${hall?.id}`, { operator, readings, ...more })

  // All or nothing: a field that cannot be right is named, and nothing of the rest is kept.
  const refused = await keep([
    { position: 'T1-pH', shown: 8.12 },
    { position: 'T2-pH', shown: 812 },
    { position: 'T3-pH', shown: 8.1 },
  ])
  expect(refused.status).toBe(400)
  expect(Object.keys(refused.body.fields ?? {})).toEqual(['readings[1]', 'readings[2]'])
  expect((await keep([{ position: 'T1-pH', shown: 8.12 }], { at: clock.now() + DAY })).status).toBe(400)
  expect((await keep([])).status).toBe(400)
  expect((await site.get<WalkView>(`walks/${hall?.id}`)).displays[0]?.last).toBeNull()
  expect((await site.ask(`walks/${(yard?.id ?? 0) + 99}`)).status).toBe(404)

  // What is typed was looked at: it waits for no delay.
  const limits = { high: 8.4, hysteresis: 0.05, delaySeconds: 3600 }
  expect((await site.ask('probes/T2-pH/limits', { operator, limits })).status).toBe(200)
  await expect
    .poll(async () => {
      clock.set(clock.now() + 60_000)
      const { body } = await keep([
        { position: 'T1-pH', shown: 8.12 },
        { position: 'T2-pH', shown: 8.61 },
      ])
      return body.alarms
    })
    .not.toEqual([])
  expect(await site.get('alarms')).toMatchObject([{ position: 'T2-pH', kind: 'high', value: 8.61, limit: 8.4 }])

  const now = clock.now()
  const series = await site.get<SeriesView>(`probes/T1-pH/series?from=${now - DAY}&to=${now}`)
  expect(series.whole).toMatchObject({ min: 8.12, max: 8.12 })

  // In order: nothing to do. The sensor is known better than before, and the calendar counts from its visits still.
  const before = await site.get<ProbeView>('probes/T1-pH')
  clock.set(clock.now() + DAY)
  const agrees = await keep([{ position: 'T1-pH', shown: 8.14, beside: { value: 8.12, ...METER } }])
  expect(agrees.body).toMatchObject({ kept: 1, disagreeing: [] })
  const after = await site.get<ProbeView>('probes/T1-pH')
  expect(after.figure.dots.at(-1)?.error).toBeCloseTo(0.02, 6)
  expect(after.figure.dots.at(-1)?.uncertainty).toBeCloseTo(0.04, 6)
  expect(after.figure.dots.length).toBe(before.figure.dots.length + 1)

  // Out of order: said at once, and Rounds asks for a check, with the reason, until the next that agrees.
  clock.set(clock.now() + DAY)
  const disagrees = await keep([{ position: 'T1-pH', shown: 8.24, beside: { value: 8.1, ...METER } }])
  expect(disagrees.body.disagreeing.map(({ position, sentence }) => [position, plain(sentence)])).toEqual([
    ['T1-pH', 'It read 0.14 pH more than Hand meter 3'],
  ])
  const row = async () => (await site.get<RoundsView>('rounds')).rows.find((r) => r.position === 'T1-pH')
  expect(plain((await row())?.figure.next.reason)).toContain('It read 0.14 pH more than Hand meter 3')
  expect((await row())?.figure.next.at).toBeLessThanOrEqual(clock.now())
  clock.set(clock.now() + DAY)
  await keep([{ position: 'T1-pH', shown: 8.11, beside: { value: 8.1, ...METER } }])
  expect(plain((await row())?.figure.next.reason)).not.toContain('Hand meter')
})
