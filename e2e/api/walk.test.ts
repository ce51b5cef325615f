import type { ProbeView, RoundsView, SeriesView, WalkOutcome, WalkPlaceView, WalkView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
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

it('a number that was typed wrongly is taken back: no figure, alarm or forecast counts it, and it still stands there', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater')
  expect((await site.bring(PAST, { take: true })).body.taken).toBe(2)
  const { clock } = site
  const [hall] = await site.get<WalkPlaceView[]>('walks')
  const keep = async (shown: number, beside: object | null = null) => {
    clock.set(clock.now() + 60_000)
    const { body } = await site.ask<WalkOutcome>(`walks/${hall?.id}`, {
      operator,
      readings: [{ position: 'T1-pH', shown, beside }],
    })
    expect(body.kept).toBe(1)
    return clock.now()
  }
  const take = (readAt: number, reason = 'Typed wrongly') =>
    site.ask('probes/T1-pH/readings/take-back', { operator, readAt, reason })
  const series = () => site.get<SeriesView>(`probes/T1-pH/series?from=${clock.now() - 2 * DAY}&to=${clock.now()}`)
  const last = async () => (await site.get<WalkView>(`walks/${hall?.id}`)).displays[0]?.last?.value
  const lasting = async () =>
    (await site.get<{ returnedAt: number | null }[]>('alarms')).filter((a) => a.returnedAt === null)
  const limits = { high: 8.4, hysteresis: 0.05, delaySeconds: 0 }
  expect((await site.ask('probes/T1-pH/limits', { operator, limits })).status).toBe(200)

  const right = await keep(8.12)
  const { dots } = (await site.get<ProbeView>('probes/T1-pH')).figure
  const slips: number[] = []
  // The watch follows what the site has a moment later.
  await expect
    .poll(async () => {
      slips.push(await keep(8.92, { value: 8.1, ...METER }))
      return lasting()
    })
    .toMatchObject([{ position: 'T1-pH', kind: 'high', value: 8.92 }])
  expect(await last()).toBe(8.92)
  expect((await site.get<ProbeView>('probes/T1-pH')).figure.dots.length).toBeGreaterThan(dots.length)
  const slip = slips.at(-1) ?? 0
  expect((await take(slip, 'x')).status).toBe(400)
  for (const never of [slip + 1, 9_007_199_254_740_992, -1]) expect((await take(never)).status).toBe(409)
  expect((await series()).typed[0]).toEqual({ at: slip, value: 8.92, takenBack: null })

  // The newest first: what it raised lasts as long as the one before it says the same.
  for (const at of slips.toReversed()) expect((await take(at)).status).toBe(200)
  expect(await last()).toBe(8.12)
  await expect.poll(lasting).toEqual([])
  expect((await take(slip)).status).toBe(409)
  const after = await series()
  expect(after.whole).toMatchObject({ good: 1, min: 8.12, max: 8.12 })
  expect(after.typed[0]).toMatchObject({ at: slip, value: 8.92, takenBack: { by: operator, reason: 'Typed wrongly' } })
  expect(after.otherwise).toEqual([])
  expect((await site.get<ProbeView>('probes/T1-pH')).figure.dots).toEqual(dots)

  // Hours later it is packed, and can still be taken back; nothing is left then, and it stays so.
  clock.set(clock.now() + DAY)
  await site.restart()
  expect((await take(right)).status).toBe(200)
  expect(await last()).toBeUndefined()
  expect(await series()).toMatchObject({ whole: null, bins: [] })
})
