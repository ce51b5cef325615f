import { readFileSync } from 'node:fs'
import { type BringLogOptions, type BringProgress, LOG_AS_IT_LOOKS, type SeriesView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { operator, ownSite } from '../support/ownSite.ts'

const MINUTE = 60_000
const DAY = 1440 * MINUTE
const SENSORS =
  'code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater\nT1-EC,conductivity,Hall,nutrient'
async function logSite() {
  const site = await ownSite(SENSORS, { at: Date.UTC(2026, 3, 1) })
  return {
    ...site,
    log: (file: string | Uint8Array<ArrayBuffer>, options: Partial<BringLogOptions> = {}, name?: string) =>
      site.log(file, { take: false, ...options }, name),
    series: (code: string, from: number, to: number, most = 4000) =>
      site.get<SeriesView>(`probes/${code}/series?from=${from}&to=${to}&most=${most}`),
  }
}

it('a wide log of a station with decimal commas, units and local times, through the night in which the clock is set back', async () => {
  const site = await logSite()
  // 26 October 2025 in Berlin: 02:30 comes twice, an hour apart.
  const log = [
    'Datum;Zeit;T1-pH;EC tank 1 (µS/cm);Bemerkung',
    '26.10.2025;01:30;8,10;1850;',
    '26.10.2025;02:00;8,11;1860;',
    '26.10.2025;02:30;8,12;1870;cleaned',
    '26.10.2025;02:00;8,13;1880;',
    '26.10.2025;02:30;8,14;1890;',
    '26.10.2025;03:00;8,15;n. a.;',
    '99.10.2025;03:30;8,16;1900;',
  ].join('\n')
  const looked = await site.log(log)
  expect(looked.body).toMatchObject({
    columns: { time: 0, clock: 1, name: null },
    dateOrder: 'dmy',
    zoned: 'none',
    timeZone: 'Europe/Berlin',
    rows: 7,
    asked: [],
    taken: null,
  })
  expect(looked.body.channels.map((c) => [c.name, c.position, c.unit, c.readings])).toEqual([
    ['T1-pH', 'T1-pH', '', 6],
    ['EC tank 1 (µS/cm)', null, 'µS/cm', 0],
    ['Bemerkung', null, '', 0],
  ])
  const channels = looked.body.channels.map(({ name, position, unit, of }) => ({ name, position, unit, of }))
  ;(channels[1] as (typeof channels)[number]).position = 'T1-EC'
  const chosen = { columns: looked.body.columns, channels }
  const refused = await site.log(log, { ...chosen, take: true })
  expect(refused).toMatchObject({ status: 409, body: { code: 'rows-wrong' } })
  const taken = await site.log(log, { ...chosen, leaveOut: true, take: true })
  expect(taken.body).toMatchObject({ taken: 11, wrong: 2, wrongRows: [{ number: 7 }, { number: 8 }] })

  const from = Date.UTC(2025, 9, 25, 23, 30)
  const { bins } = await site.series('T1-pH', from, from + 3 * 3_600_000)
  expect(bins.map((b) => [(b.at - from) / MINUTE, b.mean])).toEqual([
    [0, 8.1],
    [30, 8.11],
    [60, 8.12],
    [90, 8.13],
    [120, 8.14],
    [150, 8.15],
  ])
  // What its display shows is mS/cm.
  expect((await site.series('T1-EC', from, from + DAY)).whole).toMatchObject({ min: 1.85, max: 1.89 })

  // The same once more: nothing is there twice.
  expect((await site.log(log, { ...chosen, leaveOut: true, take: true })).body.taken).toBe(0)
})

it('temperatures beside readings: in a column of their own, in rows of their own, in °F', async () => {
  const site = await logSite()
  const wide = [
    'time;T1-pH temp (°F);T1-pH;T1-EC Temperature;T1-EC',
    '2026-03-01T10:00:00Z;68;8,11;21,5;1,85',
    '2026-03-01T10:10:00Z;;8,12;21,7;1,86',
    '2026-03-01T10:20:00Z;86;8,13;warm;1,87',
  ].join('\n')
  const looked = await site.log(wide)
  expect(looked.body.channels.map((c) => [c.name, c.position, c.unit, c.of, c.readings])).toEqual([
    ['T1-pH temp (°F)', 'T1-pH', '°F', 'temperature', 2],
    ['T1-pH', 'T1-pH', '', 'reading', 3],
    ['T1-EC Temperature', 'T1-EC', '', 'temperature', 2],
    ['T1-EC', 'T1-EC', '', 'reading', 3],
  ])
  expect(looked.body.wrongRows).toMatchObject([{ number: 4, why: expect.stringContaining('warm') }])
  const taken = await site.log(wide, { take: true, leaveOut: true })
  expect(taken.body).toMatchObject({ taken: 6, wrong: 1 })
  const from = Date.UTC(2026, 2, 1, 10)
  const warmths = async (code: string) =>
    (await site.series(code, from, from + 3_600_000)).bins.map((b) => [b.mean, b.temperature])
  expect(await warmths('T1-pH')).toEqual([
    [8.11, expect.closeTo(20, 4)],
    [8.12, null],
    [8.13, expect.closeTo(30, 4)],
  ])
  expect((await warmths('T1-EC')).map(([, t]) => t)).toEqual([expect.closeTo(21.5, 4), expect.closeTo(21.7, 4), null])

  // Rows that name their channel, the temperature after its reading; what is taken for a unit that is none of it is said.
  const long = [
    'timestamp,sensor,value',
    '2026-03-02T10:00:00Z,T2-pH,8.05',
    '2026-03-02T10:00:00Z,T2-pH temperature,24.5',
  ].join('\n')
  const { body } = await site.log(long, { take: true })
  expect(body).toMatchObject({ taken: 1 })
  const later = Date.UTC(2026, 2, 2, 10)
  expect((await site.series('T2-pH', later, later + 3_600_000)).bins[0]).toMatchObject({
    mean: 8.05,
    temperature: 24.5,
  })
  const channels = body.channels.map(({ name, position, unit, of }) => ({
    name,
    position,
    unit: of === 'temperature' ? 'mV' : unit,
    of,
  }))
  const wrong = await site.log(long, { columns: body.columns, channels })
  expect(wrong.body.channels.map((c) => c.problem)).toEqual([null, 'mV is no temperature.'])
})

it('a long log that names its sensors, a workbook and SenML; what can be read in two ways is asked', async () => {
  const site = await logSite()
  const long = [
    'timestamp,sensor,value',
    '2026-03-01T10:00:00Z,t1-ph,8.11',
    '2026-03-01T10:00:00Z,t2-ph,8.05',
    '2026-03-01T11:00:00+01:00,T1-pH,8.11',
    '2026-03-01T10:05:00Z,boiler,63',
  ].join('\n')
  const { body } = await site.log(long, { take: true })
  expect(body).toMatchObject({ zoned: 'all', taken: 2, columns: { time: 0, name: 1, value: 2 } })
  expect(body.channels.map((c) => [c.name, c.position])).toEqual([
    ['t1-ph', 'T1-pH'],
    ['t2-ph', 'T2-pH'],
    ['T1-pH', 'T1-pH'],
    ['boiler', null],
  ])
  const either = await site.log('date,T1-pH\n03/04/2026 10:00,8.1\n03/05/2026 10:00,8.2')
  expect(either.body.asked).toEqual([expect.stringContaining('day or the month')])
  expect((await site.log('date,T1-pH\n03/04/2026 10:00,8.1', { take: true })).status).toBe(409)
  const mdy = await site.log('date,T1-pH\n03/04/2026 10:00,8.1\n03/05/2026 10:00,8.2', { dateOrder: 'mdy', take: true })
  expect(mdy.body).toMatchObject({ taken: 2, from: Date.UTC(2026, 2, 4, 9) })
  const unit = await site.log('time,T1-pH [mV]\n2026-03-01T10:00:00Z,12')
  expect(unit.body.channels[0]?.problem).toContain('mV')

  const pack = [
    { bn: 'T2-pH', bt: Date.UTC(2026, 2, 2) / 1000, v: 8.01 },
    { t: 60, v: 8.02 },
  ]
  expect((await site.log(JSON.stringify(pack), { take: true }, 'log.senml')).body).toMatchObject({ taken: 2 })
  const book = await site.log(
    new Uint8Array(readFileSync(new URL('../fixtures/log.xlsx', import.meta.url))),
    { take: true, timeZone: 'UTC' },
    'log.xlsx',
  )
  expect(book.body).toMatchObject({ taken: 2, to: Date.UTC(2026, 2, 3, 8, 5, 30) })
  expect((await site.log('x'.repeat(100), { take: true })).status).not.toBe(200)
  expect((await site.log(long, { timeZone: 'Europe/Nowhere' })).status).toBe(400)
})

it('many rows come in whole, once, with their roll-ups, however often they come', async () => {
  const site = await logSite()
  const rows = heavy(50_000, 1_000_000)
  const from = Date.UTC(2026, 3, 1) - rows * MINUTE
  const value = (i: number) => Number((8.1 + 0.2 * Math.sin(i / 229) + (i % 7) / 100).toFixed(2))
  const lines = Array.from({ length: rows }, (_, i) => `${new Date(from + i * MINUTE).toISOString()},${value(i)}`)
  // Cut off in the middle, and out of order.
  const half = lines.slice(0, rows / 2)
  const first = await site.log(`time,T1-pH\n${half.toReversed().join('\n')}`, { take: true })
  expect(first.body.taken).toBe(half.length)
  const whole = `time,T1-pH\n${lines.join('\n')}`
  expect((await site.log(whole, { take: true })).body.taken).toBe(rows - half.length)
  expect((await site.log(whole, { take: true })).body.taken).toBe(0)
  const values = lines.map((_, i) => value(i))
  const { whole: sum, binMs } = await site.series('T1-pH', from - DAY, from + rows * MINUTE)
  expect(sum?.good).toBe(rows)
  // Over its time: each bin counts alike.
  const bins = new Map<number, number[]>()
  values.forEach((v, i) => {
    const bin = Math.floor((from + i * MINUTE) / binMs)
    bins.set(bin, [...(bins.get(bin) ?? []), v])
  })
  const mean = (some: readonly number[]) => some.reduce((a, b) => a + b, 0) / some.length
  expect(sum?.mean).toBeCloseTo(mean([...bins.values()].map(mean)), 6)
  expect(sum?.min).toBe(values.reduce((a, b) => Math.min(a, b)))
}, 900_000)

it('an import that takes longer than its sender waits is answered early, reports its progress, and its outcome is fetched', async () => {
  const site = await logSite()
  const from = Date.UTC(2026, 2, 1)
  const lines = Array.from({ length: 20_000 }, (_, i) => `${new Date(from + i * MINUTE).toISOString()},8.1`)
  const send = (file: string) => {
    const query = new URLSearchParams({
      name: 'log.csv',
      operator,
      options: JSON.stringify({ ...LOG_AS_IT_LOOKS, take: true }),
    })
    const headers = { prefer: 'respond-async, wait=0', 'content-type': 'application/octet-stream' }
    return fetch(`${site.url()}/api/bring/log?${query}`, { method: 'POST', body: file, headers })
  }
  const early = await send(`time,T1-pH\n${lines.join('\n')}`)
  expect(early.status).toBe(202)
  const address = `${site.url()}${early.headers.get('location')}`
  const seen: number[] = []
  let outcome = await fetch(address)
  while (outcome.status === 202) {
    const progress = await site.get<BringProgress | null>('bring/progress')
    if (progress) seen.push(progress.done / progress.of)
    outcome = await fetch(address)
  }
  expect(outcome.status).toBe(200)
  expect(await outcome.json()).toMatchObject({ taken: lines.length })
  expect(seen.length).toBeGreaterThan(0)
  expect(seen).toEqual(seen.toSorted((a, b) => a - b))
  // A failure is fetched as well; and there is nothing of a job that never was.
  const failing = await send('a file without times')
  const failed = `${site.url()}${failing.headers.get('location')}`
  await expect.poll(async () => (await fetch(failed)).status).toBe(409)
  expect((await fetch(`${site.url()}/api/jobs/none`)).status).toBe(404)
})
