import type { ImportReport, LedgerRow, ProbeView, RecordView, RoundsView, VisitView } from '@frustum/contract'
import { randomStream } from '@frustum/core'
import { expect, it } from 'vitest'
import { heavy } from '../../lab/src/fixtures/heavy.ts'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** What people wrote down of their calibrations, brought in. */

const DAY = 86_400_000

const SENSORS =
  'Code;Type;Place;Water;Serial\nT1-pH;pH;Fish room;seawater;0417\nT1-EC;EC;Fish room;nutrient;\nT1-ORP;ORP;Fish room;seawater;'

/** As such lists are: merged cells, a decimal comma, n/a, a row twice, a heading once more, a sensor nobody knows. */
const MESS = [
  'Date;Tag;pH 7 before;pH 10 before;pH 7 after;Temp (°F);Slope (%);Offset (mV);By;Remarks',
  '03.04.2024;T1-pH;7,05;9,92;7,00;75;96,5;-3,2;AF;first',
  ';;;;;;;;;',
  '12.07.2024;t1-PH;7,08;9,88;7,01;77;95,1;-4;AF;',
  '12.07.2024;T1-pH;7,08;9,88;7,01;77;95,1;-4;AF;',
  'Date;Tag;pH 7 before;pH 10 before;pH 7 after;Temp (°F);Slope (%);Offset (mV);By;Remarks',
  '13.10.2024;T1-pH;7,11;9,85;n/a;77;94,0;-6;BM;',
  '13.10.2025;T1-pH;abc;9,85;;77;95;0;BM;',
  '13.10.2025;T9-pH;7,01;9,85;;77;95;0;BM;',
  '01.02.2029;T1-pH;7,02;9,95;;77;95;0;BM;',
  '31.02.2025;T1-pH;7,02;9,95;;77;95;0;BM;',
  ';;7,02;9,95;;77;95;900;BM;merged, and a slip',
].join('\r\n')

it('a list with the mess of its kind is named row by row, and taken in once', async () => {
  const { bring, get } = await ownSite(SENSORS)
  const { status, body } = await bring(MESS)
  expect(status, JSON.stringify(body)).toBe(200)
  expect(body.asked).toEqual([])
  expect(body.answers).toMatchObject({ dateOrder: 'dmy', slopeIn: 'percent', zeroIn: 'millivolts' })
  expect(body.rows.map((r) => [r.number, r.state, Object.keys(r.wrong)])).toEqual([
    [2, 'new', []],
    [4, 'new', []],
    [5, 'known', []],
    [7, 'new', []],
    [8, 'wrong', ['before1']],
    [9, 'wrong', ['code']],
    [10, 'wrong', ['date']],
    [11, 'wrong', ['date']],
    [12, 'wrong', ['date']],
  ])
  expect(body.rows[0]?.what.replaceAll('\u00a0', ' ')).toMatch(/^3 Apr 2024: pH 7\.00 and pH 10\.01, slope 96\.5 %/)
  expect(body.rows.slice(5).map((r) => Object.values(r.wrong)[0])).toEqual([
    expect.stringContaining('There is no sensor "T9-pH" here.'),
    '01.02.2029 lies in the future.',
    '"31.02.2025" is no date.',
    '"31.02.2025" is no date.',
  ])
  const refused = await bring(MESS, { take: true })
  expect([refused.status, refused.body.message]).toEqual([409, '5 of 9 rows cannot be taken in.'])
  expect(await get<LedgerRow[]>('ledger')).toEqual([])
  expect((await bring(MESS, { take: true, leaveOut: true })).body.taken).toBe(3)
  const again = await bring(MESS, { take: true, leaveOut: true })
  expect([again.body.taken, again.body.rows.slice(0, 4).map((r) => r.state)]).toEqual([0, Array(4).fill('known')])
  const ledger = await get<LedgerRow[]>('ledger')
  expect(ledger.map((r) => [new Date(r.at).toISOString(), r.name, r.work, r.operator])).toEqual([
    ['2024-10-13T10:00:00.000Z', 'Two points, from a list', 'adjusted', 'BM'],
    ['2024-07-12T10:00:00.000Z', 'Two points, from a list', 'adjusted', 'AF'],
    ['2024-04-03T10:00:00.000Z', 'Two points, from a list', 'adjusted', 'AF'],
  ])
  const record = await get<RecordView>(`ledger/${ledger[2]?.id}`)
  expect(record.fromList).toBe(true)
  const said = plain(record.record.lines[0]?.sentence ?? '')
  expect(said).toContain('pH 7 before 7,05, pH 10 before 9,92')
  expect(said).toContain(`file log.csv, row 2, SHA-256 ${body.sha256}`)
  expect(record.readings[2]).toMatchObject({ stability: { state: 'unknown' }, shown: 7.05 })
  expect(record.readings[2]?.temperature).toBeCloseTo(23.9, 1)
  const probe = await get<ProbeView>('probes/T1-pH')
  // It is there since its first calibration that is known, and its past tells when it is due.
  expect(new Date(probe.installedAt).toISOString()).toBe('2024-04-03T10:00:00.000Z')
  expect((await get<RoundsView>('rounds')).rows.find((r) => r.position === 'T1-pH')?.state).toBe('overdue')
})

it('titles above the headings are passed over, and rows keep their numbers', async () => {
  const { bring } = await ownSite(SENSORS)
  const titles = ['Calibration log 2024, pH and EC;;;', 'Fish room;;;', ';;;']
  const table = ['Date;Tag;pH 7 before;pH 10 before', '2024-04-03;T1-pH;7.05;9.92', '2024-07-12;T1-pH;7.08;9.88']
  const looked = async (lines: readonly string[]) => (await bring(lines.join('\n'), { without: 'checked' })).body
  const [bare, titled] = [await looked(table), await looked([...titles, ...table])]
  expect(titled.headers).toEqual(bare.headers)
  expect(titled.rows.map((r) => [r.number, r.state, r.what])).toEqual(
    bare.rows.map((r) => [r.number + titles.length, 'new', r.what]),
  )
})

it('rows that name no sensor lead to one question, and its answer holds for all of them', async () => {
  const { bring } = await ownSite(SENSORS)
  const dates = Array.from({ length: 19 }, (_, i) => `2024-${String(1 + (i % 12)).padStart(2, '0')}-${10 + i}`)
  const list = ['Date;pH 7 before;pH 10 before', ...dates.map((date) => `${date};7.05;9.92`)].join('\n')
  const asked = (await bring(list, { without: 'checked' })).body
  expect(asked.asked).toEqual([{ question: 'sensor', because: '19 rows name no sensor.' }])
  expect(asked.rows).toEqual([])
  const answered = (await bring(list, { without: 'checked', sensor: 'T1-pH' })).body
  expect(answered.rows.map((r) => [r.code, r.state])).toEqual(Array(19).fill(['T1-pH', 'new']))
  const none = (await bring(list, { without: 'checked', sensor: '' })).body
  expect(new Set(none.rows.map((r) => r.wrong.code))).toEqual(new Set(['Which sensor?']))
})

it('the heading row can be chosen', async () => {
  const { bring } = await ownSite(SENSORS)
  const list = 'Date;Code;Standard;Reading\nTag;When;A;B\nT1-pH;2024-04-03;pH 7.00;7.05'
  expect((await bring(list, { without: 'checked' })).body).toMatchObject({
    headingRow: 1,
    firstRows: ['Date, Code, Standard, Reading', 'Tag, When, A, B', 'T1-pH, 2024-04-03, pH 7.00, 7.05'],
  })
  const columns = { code: 0, date: 1, standard1: 2, before1: 3 }
  const { body } = await bring(list, { without: 'checked', headingRow: 2, columns })
  expect([body.headingRow, body.headers, body.rows.map((r) => [r.number, r.state])]).toEqual([
    2,
    ['Tag', 'When', 'A', 'B'],
    [[3, 'new']],
  ])
})

it('what can be read in two ways is asked, and nothing is made of it before', async () => {
  const { bring, get } = await ownSite(SENSORS)
  const list =
    'Date,Sensor,pH 7,pH 4,Slope,Zero\n03/04/2024,T1-pH,7.05,4.02,57.1,6.9\n04/05/2024,T1-pH,7.02,4.05,56.8,6.8\n05/06/2024,T1-pH,7.02,4.05,,'
  const looked = await bring(list)
  expect(looked.body.asked.map((a) => a.question)).toEqual(['dateOrder', 'slopeIn', 'zeroIn', 'without'])
  expect(looked.body.rows).toEqual([])
  const refused = await bring(list, { take: true })
  expect([refused.status, refused.body.code]).toEqual([409, 'open-question'])
  const answers = { dateOrder: 'mdy', slopeIn: 'millivolts', zeroIn: 'atZero', without: 'checked' } as const
  const taken = await bring(list, { ...answers, take: true })
  expect(taken.body.taken).toBe(3)
  const [last, , first] = await get<LedgerRow[]>('ledger')
  expect(new Date(first?.at ?? 0).toISOString()).toBe('2024-03-04T11:00:00.000Z')
  expect([last?.work, first?.work]).toEqual(['checked', 'adjusted'])
  // 57.1 mV of 59.16 are 96.5 %; pH 6.9 at 0 mV is 0.1 pH below 7 at that slope.
  const { record } = await get<RecordView>(`ledger/${first?.id}`)
  expect(plain(record.applied?.parameters)).toBe('slope 96.5 %, zero -5.7 mV')
})

it('a row for each standard is one visit; sensors of all kinds, by code or by number', async () => {
  const { bring, get } = await ownSite(SENSORS)
  const list = [
    'When;Serial no;Sensor;Standard;As found;As left;Kit;Display;Temp',
    '2025-03-04 08:30;0417;;7.00;7.06;7.00;;;25',
    ';;;10.01;9.95;10.00;;;25',
    '2025-03-04 09:30;;T1-EC;1413;1.39;1.41;;;25',
    '2025-03-04 10:00;;T1-ORP;ZoBell;;;;;25',
    '2025-03-04 10:30;;T1-ORP;220;231;221;;;25',
    '2025-03-05;0417;;;;;8.1;8.2;25',
    '2025-03-06;0417;T1-EC;1413;1.39;;;;25',
    '2025-03-07;;T1-EC;6;1.39;;;;25',
  ].join('\n')
  const { body } = await bring(list, { without: 'checked' })
  expect(body.rows.map((r) => [r.number, r.code, r.state, Object.keys(r.wrong)])).toEqual([
    [2, 'T1-pH', 'new', []],
    [3, 'T1-pH', 'new', []],
    [4, 'T1-EC', 'new', []],
    [5, 'T1-ORP', 'wrong', ['before1']],
    [6, 'T1-ORP', 'new', []],
    [7, 'T1-pH', 'new', []],
    [8, 'T1-EC', 'new', []],
    [9, 'T1-EC', 'wrong', ['standard1']],
  ])
  expect(body.rows[1]?.what).toBe('one visit with row 2')
  const impossible = await bring('Date;Code;Standard;As found\n2025-04-01;T1-pH;7;14.9\n2025-04-01;T1-pH;10;99', {
    without: 'checked',
  })
  // A visit with a number that cannot be goes with all its rows.
  expect(impossible.body.rows.map((r) => r.state)).toEqual(['wrong', 'wrong'])
  expect((await bring(list, { without: 'checked', take: true, leaveOut: true })).body.taken).toBe(5)
  const ledger = await get<LedgerRow[]>('ledger')
  const of = (position: string) => ledger.filter((r) => r.position === position)
  expect(of('T1-pH').map((r) => r.name)).toEqual(['By a grab sample, from a list', 'Two points, from a list'])
  // 1.39 mS/cm where 1.413 are right.
  expect(of('T1-EC').at(-1)?.asFound?.value).toBeCloseTo(100 * (1.39 / 1.413 - 1), 1)
  expect(of('T1-EC').at(-1)?.asLeft?.value).toBeCloseTo(100 * (1.41 / 1.413 - 1), 1)
})

it('a sensor that came later, another one of the position, and a day that is here already are named', async () => {
  const { bring, ask, get, clock } = await ownSite(SENSORS)
  const older = 'Date;Code;Serial;pH 7 before;pH 10 before;pH 7 after\n2025-05-01;T1-pH;0999;7.02;9.99;7.00'
  const { body } = await bring(older)
  expect(body.rows[0]?.wrong).toEqual({ serial: 'Then T1-pH had the sensor 0417, as far as is known here.' })
  const start = { clientId: '0d2b9a52-6b0f-4f0e-9d83-4a8a8c1f2b10', operator, position: 'T1-pH', procedure: 'compare' }
  const visit = await ask<VisitView>('visits', { ...start, standards: {}, opening: {} })
  expect(visit.status, JSON.stringify(visit.body)).toBe(201)
  await ask(`visits/${visit.body.id}/abandon`, { clientId: start.clientId, operator, reason: 'only to have one' })
  const today = new Date(clock.now()).toISOString().slice(0, 10)
  const same = await bring(`Date;Code;pH 7 before;pH 10 before;pH 7 after\n${today};T1-pH;7.02;9.99;7.00`)
  expect(same.body.rows[0]).toMatchObject({ state: 'known', what: 'a visit of 15 Jan 2026 is here already' })
  expect((await get<LedgerRow[]>('ledger')).length).toBe(1)
})

it('records from a list go out and come in elsewhere as what they are', async () => {
  const from = await ownSite(SENSORS)
  await from.bring(MESS, { take: true, leaveOut: true })
  const file = await from.get<object>('ledger/export.json')
  const to = await ownSite('')
  const report = await to.ask<ImportReport>('ledger/import', file)
  expect(report.body).toMatchObject({ added: 3, refused: [] })
  const [there, here] = [await to.get<LedgerRow[]>('ledger'), await from.get<LedgerRow[]>('ledger')]
  expect(there).toEqual(here)
  const pages = (s: typeof from, rows: LedgerRow[]) => Promise.all(rows.map((r) => s.get(`ledger/${r.id}`)))
  expect(await pages(to, there)).toEqual(await pages(from, here))
})

it('what was not all in when the server ended is taken back at the next start', async () => {
  const { bring, restart, get } = await ownSite(SENSORS)
  const rows = Array.from({ length: 120 }, (_, i) => {
    const date = new Date(Date.UTC(2020, 0, 1) + 5 * i * DAY).toISOString().slice(0, 10)
    return `${date};T1-pH;7.0${i % 9};9.9${i % 7}`
  })
  const list = ['Date;Code;pH 7 before;pH 10 before', ...rows].join('\n')
  const taking = bring(list, { without: 'calibrated', take: true }).catch(() => null)
  await expect.poll(async () => (await get<{ done: number } | null>('bring/progress'))?.done ?? 0).toBeGreaterThan(9)
  // Nobody is told of them before all are there.
  expect(await get<LedgerRow[]>('ledger')).toEqual([])
  await Promise.all([restart(), taking])
  expect(await get<LedgerRow[]>('ledger')).toEqual([])
  expect((await bring(list, { without: 'calibrated', take: true })).body.taken).toBe(120)
  expect(await get<LedgerRow[]>('ledger')).toHaveLength(100)
})

it('a list of past calibrations says of its sensors what the same numbers say when they are typed as visits', async () => {
  const sensors = heavy(3, 60)
  const visits = heavy(12, 400)
  const random = randomStream(7)
  const codes = Array.from({ length: sensors }, (_, i) => `S-${i}`)
  const list = `Code;Type;Place;Water\n${codes.map((c) => `${c};pH;Hall;seawater`).join('\n')}`
  const start = Date.UTC(2025, 0, 10, 11)
  const typed = await ownSite(list, { at: start - DAY, adjustsBy: 'numbers' })
  const listed = await ownSite(list, { at: start - DAY, adjustsBy: 'numbers' })
  const rows: string[] = []
  for (let n = 0; n < visits; n++) {
    const position = codes[n % sensors] as string
    const at = start + Math.floor(n / sensors) * 40 * DAY
    const [seven, ten] = [(7 + 0.06 * random.normal()).toFixed(2), (9.95 + 0.05 * random.normal()).toFixed(2)]
    typed.clock.set(at)
    const given = await calibrateByHand(typed, position, { seven, ten })
    const [slope, zero] = [given.slopeEfficiency * 100, given.zero].map((v) => v.toFixed(1).replace('.', ','))
    const date = new Date(at).toISOString().slice(0, 10).split('-').reverse().join('.')
    const time = new Date(at).toLocaleTimeString('en-GB', { timeZone: 'Europe/Berlin', timeStyle: 'short' })
    rows.push(`${date};${time};${position};${seven.replace('.', ',')};${ten};24;${slope};${zero};AF`)
  }
  const now = start + (Math.ceil(visits / sensors) * 40 + 3) * DAY
  for (const s of [typed, listed]) s.clock.set(now)
  const file = ['Date;Time;Code;pH 7 before;pH 10 before;Temperature;Slope %;Offset mV;By', ...rows].join('\n')
  const taken = await listed.bring(file, { take: true })
  expect([taken.body.taken, taken.body.message]).toEqual([visits, undefined])
  for (const code of codes) {
    const [a, b] = [await typed.get<ProbeView>(`probes/${code}`), await listed.get<ProbeView>(`probes/${code}`)]
    expect(b.calibrations.map((c) => c.characteristic)).toEqual(a.calibrations.map((c) => c.characteristic))
    expect([code, daysOf(b.figure.next.at)]).toEqual([code, daysOf(a.figure.next.at)])
    expect([code, daysOf(b.health.end?.at)]).toEqual([code, daysOf(a.health.end?.at)])
  }
  const errors = async (s: typeof typed) =>
    (await s.get<LedgerRow[]>('ledger'))
      .map((r) => [r.position, r.at - (r.at % DAY), r.asFound?.value.toFixed(2)])
      .sort()
  expect(await errors(listed)).toEqual(await errors(typed))
})

const daysOf = (at: number | null | undefined) => (at == null ? null : Math.round(at / DAY))

it('earlier calibrations imported afterwards lead to the same forecasts and causes as when imported first', async () => {
  const random = randomStream(36)
  const codes = Array.from({ length: heavy(10, 60) }, (_, i) => `S-${i}`)
  const visited = codes.slice(0, heavy(3, 60))
  const list = `Code;Type;Place;Water\n${codes.map((c) => `${c};pH;Hall;seawater`).join('\n')}`
  const head = 'Date;Code;pH 7 before;pH 10 before;Temperature;Slope %;Offset mV'
  const start = Date.UTC(2024, 0, 10, 11)
  const visitAt = start + 700 * DAY
  const [earlier, later] = [[head], [head]]
  for (const code of codes) {
    let at = start + Math.floor(random.between(0, 60)) * DAY
    // What its device said at the first, or only some time after it.
    const stated = Math.floor(random.between(0, 3))
    for (let n = 0; at < visitAt - 20 * DAY; n++, at += Math.floor(random.between(25, 90)) * DAY) {
      const [seven, ten] = [7 + 0.05 * random.normal(), 9.95 + 0.05 * random.normal()].map((v) => v.toFixed(2))
      const said = n === stated ? `${random.between(92, 99).toFixed(1)};${(8 * random.normal()).toFixed(1)}` : ';'
      const date = new Date(at).toISOString().slice(0, 10)
      ;(at < start + 300 * DAY ? earlier : later).push(`${date};${code};${seven};${ten};24;${said}`)
    }
  }
  const read = visited.map((code) => ({
    code,
    process: (8.1 + 0.2 * random.normal()).toFixed(2),
    seven: (7 + 0.04 * random.normal()).toFixed(2),
    ten: (9.96 + 0.04 * random.normal()).toFixed(2),
  }))
  const inOrder = await ownSite(list, { at: visitAt, adjustsBy: 'numbers' })
  const afterwards = await ownSite(list, { at: visitAt, adjustsBy: 'numbers' })
  const bring = async (site: typeof inOrder, rows: string[]) => {
    const { body } = await site.bring(rows.join('\n'), { take: true, without: 'calibrated' })
    expect([body.taken, body.message]).toEqual([rows.length - 1, undefined])
  }
  const visit = async (site: typeof inOrder) => {
    for (const { code, ...typed } of read) await calibrateByHand(site, code, typed, 'leave-alone')
  }
  await bring(inOrder, earlier)
  await bring(inOrder, later)
  await visit(inOrder)
  await visit(afterwards)
  await bring(afterwards, later)
  await bring(afterwards, earlier)
  for (const site of [inOrder, afterwards]) site.clock.set(visitAt + DAY)
  let told = 0
  for (const code of codes) {
    const [a, b] = [await inOrder.get<ProbeView>(`probes/${code}`), await afterwards.get<ProbeView>(`probes/${code}`)]
    const numbers = ({ calibrations, visits, figure, driftState, health }: ProbeView) => ({
      calibrations: calibrations.map((c) => [c.at, c.adopted, ...Object.values(c.characteristic).map(rounded)]),
      visits: visits.map((v) => [v.at, v.adjusted, rounded(v.asFound), rounded(v.asLeft), rounded(v.uncertainty)]),
      next: daysOf(figure.next.at),
      driftState,
      causes: health.ranked.map((r) => [r.cause, r.probability.toFixed(4)]),
      troubles: health.troubles,
    })
    expect([code, numbers(b)]).toEqual([code, numbers(a)])
    told += b.calibrations.filter((c) => Object.keys(c.characteristic).length > 0).length
  }
  expect(told).toBeGreaterThan(codes.length)
})

const rounded = (v: number | null) => (v === null ? null : Number(v.toPrecision(7)))

/** A visit at a device that takes numbers and is read by eye: two buffers, the numbers keyed in, nothing read after. */
async function calibrateByHand(
  { ask }: Awaited<ReturnType<typeof ownSite>>,
  position: string,
  read: { process?: string; seven: string; ten: string },
  decision: 'adjust' | 'leave-alone' = 'adjust',
): Promise<{ slopeEfficiency: number; zero: number }> {
  const asker = { clientId: '0d2b9a52-6b0f-4f0e-9d83-4a8a8c1f2b10', operator }
  const standards = { first: 'pH7.00', second: 'pH10.01' }
  const opening = decision === 'adjust' ? { held: 'default' } : {}
  const start = { ...asker, position, procedure: 'ph-two-point', standards, opening }
  const { status, body: visit } = await ask<VisitView>('visits', start)
  expect([status, visit.message]).toEqual([201, undefined])
  let view: VisitView = visit
  const act = async (action: string, body: object) => {
    const answer = await ask<VisitView>(`visits/${visit.id}/${action}`, { ...asker, step: view.current, ...body })
    expect([action, view.current, answer.status, answer.body.message]).toEqual([action, view.current, 200, undefined])
    view = answer.body
  }
  while (view.current !== null) {
    const step = view.current
    if (step === 'point-1') await act('typed', { value: read.seven, temperature: '24', still: true })
    else if (step === 'point-2') await act('typed', { value: read.ten, temperature: '24', still: true })
    else if (step === 'found-process' && read.process) await act('typed', { value: read.process, still: true })
    else if (view.now?.kind === 'capture') await act('skip', { reason: 'not for this' })
    else if (view.now?.kind === 'result') await act('decide', { decision, note: 'as every time' })
    else if (view.now?.kind === 'apply')
      await act('apply', { way: 'keyed', step: undefined, shownAfter: '8.2', why: 'not looked at' })
    else await act('done', {})
  }
  const [found] = (await ask<ProbeView>(`probes/${position}`)).body.calibrations.toSorted((a, b) => b.at - a.at)
  return found?.characteristic as { slopeEfficiency: number; zero: number }
}

it('units of cells and headings are converted or questioned, and a number that can be read in two ways is refused', async () => {
  const list = (heading: string, cell: string) =>
    [`Date;Tag;${heading};Standard;Calibrated`, `13.04.2025;T1-EC;${cell};1413 µS/cm;no`].join('\n')
  const site = await ownSite('Code;Type;Place;Water\nT1-EC;EC;Fish room;nutrient')
  const shown = async (heading: string, cell: string) => {
    const { body } = await site.bring(list(heading, cell))
    const [row] = body.rows
    return row?.state === 'wrong' ? Object.values(row.wrong)[0] : plain(row?.what ?? '')
  }
  const right = await shown('Before', '1.38')
  expect(right).toContain('1413')
  for (const [heading, cell] of [
    ['Before', '1.38 mS/cm'],
    ['Before (mS/cm)', '1.38'],
    ['Before', '1380 µS/cm'],
    ['Before (uS/cm)', '1380'],
    ['Before', '13.8 CF'],
  ] as const)
    expect([heading, cell, await shown(heading, cell)]).toEqual([heading, cell, right])
  expect(await shown('Before', '1.38 mg/L')).toBe('It is in mg/L, but the display shows mS/cm.')
  expect(await shown('Before', '1.38 blips')).toBe('It is in blips, but the display shows mS/cm.')
  expect(await shown('Before', '1,413')).toBe('"1,413" can mean 1413 or 1.413. Enter one of them.')
})
