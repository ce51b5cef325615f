import { randomUUID } from 'node:crypto'
import { mkdirSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import type {
  LedgerRow,
  ProbeView,
  ProblemView,
  RecordView,
  RoundsView,
  ShelfView,
  TripSummary,
  VisitView,
} from '@frustum/contract'
import { phBufferValue, practicalSalinity, salinityOfSpecificGravity, seawaterConductivity } from '@frustum/core'
import { fleet } from '@frustum/demo'
import { readConfig, startServer } from '@frustum/server'
import { checkPort } from '@frustum/server/begin'
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from 'vitest'
import { startTestServer, type TestServer } from '../support/testServer.ts'

const asker = { clientId: randomUUID(), operator: 'S. Osk' }
let demo: TestServer
beforeAll(async () => {
  demo = await startTestServer()
})
afterAll(() => demo.stop())

const config = (env: NodeJS.ProcessEnv) => readConfig({ FRUSTUM_DATA: demo.folder, ...env }, null)
const send = <T = VisitView>(path: string, body?: unknown, headers: Record<string, string> = {}) =>
  demo.ask<T>(path, body, headers)

const BUFFERS = { first: 'pH7.00', second: 'pH10.01' }
const start = async (position: string, procedure = 'ph-two-point', who = asker, more: object = {}) => {
  const standards = procedure.startsWith('ph') ? BUFFERS : {}
  return (await send('/api/visits', { ...who, position, procedure, standards, opening: {}, ...more })).body
}

/** Walks one visit by its actions. */
function walker(first: VisitView) {
  let visit = first
  const act = async (action: string, body: object) => {
    const answer = await send(`/api/visits/${visit.id}/${action}`, { ...asker, ...body })
    expect(answer.body, `${action} ${JSON.stringify(body)}`).toHaveProperty('steps')
    visit = answer.body
    return visit
  }
  const type = async (step: string, value: string, temperature = '22,0') => {
    await act('typed', { step, value, temperature })
    return act('capture', { step, earlyReason: 'Testing' })
  }
  return { act, type, view: () => visit }
}

describe('the demo', () => {
  it('has 18 months of visits of sensors of every kind, ordered by who needs hands first', async () => {
    const { rows, disagreeing } = (await send<RoundsView>('/api/rounds')).body
    expect(rows).toHaveLength(fleet().length)
    expect(new Set(rows.map((r) => r.kind)).size).toBe(7)
    // The twins in the nursery part: one of them was poisoned.
    await expect.poll(async () => (await send<RoundsView>('/api/rounds')).body.disagreeing.length).toBe(1)
    expect(disagreeing.every((p) => p.unit === 'pH')).toBe(true)
    expect(rows[0]).toMatchObject({ position: 'CH-pH-2', driftState: 'out' })
    // Those that a drift or a rule makes due, then the rest; in both the likeliest harm first.
    const due = rows.map((r) => ['out', 'overdue', 'due'].includes(r.driftState))
    const last = due.lastIndexOf(true)
    expect(due.indexOf(false)).toBe(last + 1)
    for (const group of [rows.slice(0, last + 1), rows.slice(last + 1)]) {
      const risks = group.map((r) => r.risk)
      expect(risks.toSorted((a, b) => b - a)).toEqual(risks)
    }
    const { body: probe } = await send<ProbeView>('/api/probes/CH-pH-2')
    const months = (Date.now() - (probe.visits.at(-1)?.at ?? 0)) / (30.4 * 86_400_000)
    expect(months).toBeGreaterThan(17.5)
    expect(probe.calibrations.length).toBeGreaterThan(8)
  })

  it('gives each stand-in the calibration that its record says is in force, and reads it live', async () => {
    const { body: probe } = await send<ProbeView>('/api/probes/BR-pH-2')
    await expect.poll(async () => (await send<ProbeView>('/api/probes/BR-pH-2')).body.live.shown).not.toBeNull()
    expect(Math.abs((probe.live.shown ?? 8.3) - 8.3)).toBeLessThan(0.25)
  })
})

describe('what the server refuses', () => {
  it.each([
    [{ standards: { ...BUFFERS, second: 'pH8.00' } }, 'standards.second'],
    [{ procedure: 'dance' }, 'procedure'],
    [{ clientId: 'me' }, 'clientId'],
    [{ standards: { first: 'pH7.00' } }, 'second'],
    [{ standards: { first: 'pH7.00', second: 'pH7.00' } }, 'second'],
    [{ evil: 1 }, ''],
  ])('names the field that is wrong: %j', async (change, field) => {
    const good = { ...asker, position: 'CH-pH-1', procedure: 'ph-two-point', standards: BUFFERS, opening: {} }
    const answer = await send<ProblemView>('/api/visits', { ...good, ...change })
    expect(answer.status).toBe(400)
    expect(answer.body.code).toBe('invalid')
    expect(Object.keys(answer.body.fields ?? {})).toContain(field)
  })

  it('answers unknown things with 404, unreadable JSON with 400, and never a stack trace', async () => {
    const unknown = randomUUID()
    for (const path of [
      '/api/probes/XX-1',
      `/api/visits/${unknown}`,
      '/api/visits/42',
      `/api/visits/${unknown}/live`,
      '/api/nothing',
    ]) {
      const { status, body } = await send<ProblemView>(path)
      expect([path, status, body.code]).toEqual([path, 404, 'not-found'])
    }
    const broken = await send<ProblemView>('/api/visits', '{"position":')
    expect([broken.status, broken.body.code]).toEqual([400, 'unreadable'])
    expect(JSON.stringify(broken.body)).not.toMatch(/at .*\.ts|node_modules/)
  })

  it('refuses a foreign origin, lets its own pass, and sends the protecting headers', async () => {
    const foreign = await send<ProblemView>('/api/site', undefined, { origin: 'http://elsewhere.test' })
    expect([foreign.status, foreign.body.code]).toEqual([403, 'foreign-origin'])
    const own = await send('/api/site', undefined, { origin: demo.url })
    expect(own.status).toBe(200)
    expect(own.headers.get('content-security-policy')).toContain("default-src 'self'")
    expect(own.headers.get('x-content-type-options')).toBe('nosniff')
    expect(own.headers.get('x-powered-by')).toBeNull()
  })

  it('one hand at a time: another client is told who holds it, and may take over', async () => {
    const visit = await start('WH-pH-2', 'ph-check')
    const other = { clientId: randomUUID(), operator: 'T. Quillan' }
    const refused = await send<ProblemView>(`/api/visits/${visit.id}/done`, { ...other, step: 'hold' })
    expect([refused.status, refused.body.code]).toEqual([409, 'held'])
    expect(refused.body.message).toBe('S. Osk has this sensor in hand.')
    await send(`/api/visits/${visit.id}/take-over`, other)
    expect((await send(`/api/visits/${visit.id}/done`, { ...other, step: 'hold' })).body.current).toBe('found-process')
    expect((await send(`/api/visits/${visit.id}/done`, { ...asker, step: 'found-process' })).status).toBe(409)
    expect((await start('WH-pH-2', 'ph-two-point', other)).id).toBe(visit.id)
  })

  it('begun six times at once, or by several at once, it is one visit', async () => {
    const begun = await Promise.all(
      Array.from({ length: 6 }, (_, i) =>
        start('CH-pH-1', 'ph-check', { clientId: randomUUID(), operator: i % 2 ? 'S. Osk' : 'T. Quillan' }),
      ),
    )
    expect(new Set(begun.map((visit) => visit.id)).size).toBe(1)
  })

  it('two people who act in one visit at once get answers, and nobody else notices', async () => {
    const visit = await start('CH-pH-4')
    const people = [asker, { clientId: randomUUID(), operator: 'T. Quillan' }]
    await send(`/api/visits/${visit.id}/done`, { ...asker, step: 'hold' })
    const statuses: number[] = []
    const bystander: number[] = []
    for (let round = 0; round < 6; round++) {
      const acts = people.flatMap((who) => [
        ['typed', { ...who, step: 'found-process', value: '8.05', temperature: '24.6' }],
        ['redo', { ...who, step: 'found-process', reason: 'again' }],
        ['take-over', who],
        ['take-over', who],
        ['typed', { ...who, step: 'found-process', value: '8.06', temperature: '24.6' }],
      ]) as [string, object][]
      await Promise.all([
        ...acts.map(async ([act, body]) => statuses.push((await send(`/api/visits/${visit.id}/${act}`, body)).status)),
        ...['/api/ledger', '/api/shelf', '/api/rig'].map(async (path) => bystander.push((await send(path)).status)),
      ])
    }
    expect(statuses.filter((status) => ![200, 409].includes(status))).toEqual([])
    expect(new Set(bystander)).toEqual(new Set([200]))
    await send(`/api/visits/${visit.id}/take-over`, asker)
    await send(`/api/visits/${visit.id}/abandon`, { ...asker, reason: 'Only a test' })
  })

  it('keeps a step from being done twice, or out of turn', async () => {
    const visit = await start('WH-pH-3')
    const both = await Promise.all([1, 2].map(() => send(`/api/visits/${visit.id}/done`, { ...asker, step: 'hold' })))
    expect(both.map((b) => b.status).toSorted()).toEqual([200, 409])
    expect((await send(`/api/visits/${visit.id}/done`, { ...asker, step: 'rinse-2' })).status).toBe(409)
  })

  it('never captures without a reason before it is stable, nor a value of a device that is silent', async () => {
    const visit = await start('BR-pH-1')
    await send(`/api/visits/${visit.id}/done`, { ...asker, step: 'hold' })
    await expect
      .poll(
        async () =>
          (await send<ProblemView>(`/api/visits/${visit.id}/capture`, { ...asker, step: 'found-process' })).body.code,
      )
      .toBe('not-stable')
    await send('/api/extensions/demo/standins/BR-pH-1', { faults: 32 })
    await new Promise((resolve) => setTimeout(resolve, 3500))
    const blind = await send<ProblemView>(`/api/visits/${visit.id}/capture`, {
      ...asker,
      step: 'found-process',
      earlyReason: 'No time',
    })
    expect([blind.status, blind.body.code]).toEqual([409, 'blind'])
    await send('/api/extensions/demo/standins/BR-pH-1', { faults: 0 })
  })
})

describe('a display-only sensor, by typed readings', () => {
  it('goes through a whole calibration: slope and zero from displayed values, keyed in by hand', async () => {
    const { act, type, view } = walker(await start('CH-pH-4'))
    const before = (await send<ProbeView>('/api/probes/CH-pH-4')).body.activeCalibration
    await act('done', { step: 'hold' })
    const slip = await send<ProblemView>(`/api/visits/${view().id}/typed`, {
      ...asker,
      step: 'found-process',
      value: '8050',
      temperature: '22',
    })
    expect(slip.body.fields?.value).toMatch(/must lie within -1 to 15.*decimal mark/)
    await type('found-process', '8.05')
    await type('found-standard', '7,12')
    await act('skip', { step: 'clean', reason: 'It is clean' })
    await type('point-1', '7.12')
    await act('done', { step: 'rinse-2' })
    await type('point-2', '10.10')
    const { result } = view()
    const slope = result?.apply.find((p) => p.key === 'slopeEfficiency')?.value ?? 0
    // Displayed steps against true ones: 7.00 is 7.012 and 10.01 is 10.04 at 22 degC, so the span shown is 2.98 of 3.03.
    const shownSpan = 10.1 - 7.12
    const trueSpan = phBufferValue('pH10.01', 22) - phBufferValue('pH7.00', 22)
    expect(slope).toBeCloseTo(((before.slopeEfficiency ?? 1) * shownSpan) / trueSpan, 3)
    expect(result?.errorNow).toBeGreaterThan(0.05)
    expect(result?.findings.filter((f) => f.code === 'taken-early')).toHaveLength(3)
    expect(result?.proposal.decision).toBe('adjust')

    const at = `/api/visits/${view().id}`
    const silent = await send<ProblemView>(`${at}/decide`, { ...asker, step: 'result', decision: 'leave-alone' })
    expect([silent.status, silent.body.code]).toEqual([400, 'note-needed'])
    await act('decide', { step: 'result', decision: 'adjust' })
    expect((await send<ProblemView>(`${at}/apply`, { ...asker, way: 'link' })).body.code).toBe('not-writable')
    // Nothing was changed on the device: the second buffer still shows what it showed, or a number of another cup is typed.
    for (const shownAfter of ['10.10', '4.01']) {
      const otherwise = await send<ProblemView>(`${at}/apply`, { ...asker, way: 'keyed', shownAfter })
      expect([otherwise.status, otherwise.body.code]).toEqual([409, 'shows-otherwise'])
      expect(otherwise.body.message).toMatch(/with these numbers it should show pH\s10\.04/)
    }
    expect((await send<ProblemView>(`${at}/apply`, { ...asker, way: 'keyed' })).body.fields?.shownAfter).toMatch(
      /display/,
    )
    await act('apply', { way: 'keyed', shownAfter: '10.04' })
    await type('verify', '7.01')
    await type('back', '7.95')
    await act('done', { step: 'release' })
    const visit = view()
    expect(visit).toMatchObject({ outcome: 'done', current: null, holder: null })
    expect(visit.summary?.asLeft?.value).toBeCloseTo(0, 1)
    expect(visit.summary?.next?.at).toBeGreaterThan(Date.now())

    const { body: probe } = await send<ProbeView>('/api/probes/CH-pH-4')
    expect(probe.visits[0]).toMatchObject({ id: visit.id, adjusted: true, work: 'adjusted', verified: true })
    expect(probe.activeCalibration.slopeEfficiency).toBeCloseTo(slope, 6)
    const late = await send<ProblemView>(`${at}/redo`, { ...asker, step: 'clean', reason: 'Too late' })
    expect(late.body.code).toBe('closed')
  })

  it('pours from the bottle that is there when it is captured, not from one thrown away while the step was open', async () => {
    const { act, type, view } = walker(await start('CH-pH-4', 'ph-check'))
    await act('done', { step: 'hold' })
    await type('found-process', '8.05')
    await act('typed', { step: 'found-standard', value: '7.01', temperature: '22' })
    const { lots } = (await send<ShelfView>('/api/shelf')).body
    const poured = lots.find((l) => l.standard === 'pH7.00' && l.lot === view().lot?.lot)
    expect((await send(`/api/shelf/${poured?.id}`, { operator: asker.operator, action: 'discard' })).status).toBe(200)
    await act('capture', { step: 'found-standard', earlyReason: 'Testing' })
    const reading = view().steps.find((s) => s.key === 'found-standard')?.reading
    expect(reading?.standard?.lot).not.toBe(poured?.lot)
    await act('abandon', { reason: 'Testing' })
  })

  it('records an action once that is sent twice, and at the moment when it was done', async () => {
    const visit = await start('WH-pH-4', 'ph-check')
    const action = { ...asker, actionId: randomUUID(), madeAt: Date.now() - 60_000, step: 'hold' }
    const answers = [1, 2].map(() => send(`/api/visits/${visit.id}/done`, action))
    expect((await Promise.all(answers)).map((a) => a.status)).toEqual([200, 200])
    await send(`/api/visits/${visit.id}/abandon`, { ...asker, reason: 'Called away' })
    const { body: record } = await send<RecordView>(`/api/ledger/${visit.id}`)
    expect(Object.values(record.entries).map((entry) => entry.type)).toEqual(['done', 'abandoned'])
    expect(Math.abs((record.record.lines[0]?.at ?? 0) - action.madeAt)).toBeLessThan(5)
  })
})

describe('other kinds, by typed readings and forms', () => {
  it('specific gravity with a dry zero: the cell factor follows from what the display shows', async () => {
    const { act, type, view } = walker(
      await start('CH-S-2', 'conductivity-dry-zero', asker, { standards: { first: 'seawater-53' } }),
    )
    await act('done', { step: 'hold' })
    await type('found-process', '1.0255')
    // The 53 mS/cm standard is salinity 34.95, 1.0263; shown is less.
    await type('found-standard', '1,0255')
    await act('done', { step: 'clean' })
    await act('wait', { step: 'dry', minutes: 60 })
    expect(view().waiting?.minutes).toBe(60)
    await act('skip', { step: 'dry', reason: 'Blown dry' })
    await act('done', { step: 'bone-dry' })
    await type('air', '1.0000')
    const { result } = await type('point-1', '1.0255')
    const shown = salinityOfSpecificGravity(1.0255, 25, 25)
    const right = practicalSalinity(53_000, 25)
    const activeCalibration = (await send<ProbeView>('/api/probes/CH-S-2')).body.activeCalibration.factor ?? 1
    const ratio = seawaterConductivity(right, 22) / seawaterConductivity(shown, 22)
    expect(result?.apply.find((p) => p.key === 'factor')?.value).toBeCloseTo(activeCalibration * ratio, 2)
    expect(result?.proposal.decision).toBe('adjust')
  })

  it('a chlorine sample freezes the reading, waits for its result without holding the sensor, and corrects by it', async () => {
    const { act, view } = walker(await start('BR-FC-1', 'sample'))
    await expect.poll(async () => (await send<ProbeView>('/api/probes/BR-FC-1')).body.live.shown).not.toBeNull()
    await act('done', { step: 'flow' })
    await expect
      .poll(async () => (await send(`/api/visits/${view().id}/capture`, { ...asker, step: 'moment' })).status)
      .toBe(200)
    const waiting = (await send<RoundsView>('/api/rounds')).body.rows.find((r) => r.position === 'BR-FC-1')
    expect(waiting?.openVisit).toMatchObject({ pending: true, step: 'Result of the sample' })
    expect(waiting?.state).not.toBe('resting')
    const frozen = (await send(`/api/visits/${view().id}`)).body.steps.find((s) => s.key === 'moment')?.reading?.shown
    // Somebody else has the result, in another browser; nobody has to be asked for the sensor.
    const other = { clientId: randomUUID(), operator: 'T. Quillan' }
    const fill = (values: object) =>
      send<ProblemView & VisitView>(`/api/visits/${view().id}/fill`, { ...other, step: 'lab', values })
    const wrong = await fill({ result: 'lots', uncertainty: '0.05', ageMinutes: '5' })
    expect(wrong.body.fields?.result).toMatch(/"lots" is not a number/)
    const right = (frozen ?? 0) + 0.2
    const { body: judged } = await fill({ result: right.toFixed(2), uncertainty: '0.03', ageMinutes: '4' })
    expect(judged.result?.proposal.decision).toBe('adjust')
    const activeCalibration = (await send<ProbeView>('/api/probes/BR-FC-1')).body.activeCalibration.gain ?? 1
    const gain = judged.result?.apply.find((p) => p.key === 'gain')?.value ?? 0
    expect(gain / activeCalibration).toBeCloseTo(Number(right.toFixed(2)) / (frozen ?? 1), 1)
    expect(judged.authorityRule).toMatch(/every 14 days/)
  })

  it('ions come after what they are computed from, unless somebody says why not', async () => {
    const request = { ...asker, position: 'BR-Cl-1', procedure: 'ion-two-point', opening: {} }
    const standards = { high: 'chloride-319', low: 'chloride-46.2' }
    const refused = await send<ProblemView>('/api/visits', { ...request, standards })
    expect([refused.status, refused.body.code]).toEqual([409, 'prerequisites'])
    expect(refused.body.message).toBe('BR-pH-3 and BR-ORP-2 should come first.')
    const { body: visit } = await send('/api/visits', { ...request, standards, override: 'Only this is asked for' })
    const { body: record } = await send<RecordView>(`/api/ledger/${visit.id}`)
    expect(record.record.lines[0]?.sentence).toMatch(/Went on although BR-pH-3, BR-ORP-2 first was the rule/)
  })

  it('a sensor is retired with its cause, the position stands empty, and a new one begins with its own baseline', async () => {
    const { act } = walker(await start('WH-pH-1', 'retire'))
    await act('done', { step: 'hold' })
    await act('fill', { step: 'cause', values: { cause: 'glass-aged' } })
    await act('done', { step: 'remove' })
    const rounds = (await send<RoundsView>('/api/rounds')).body
    expect(rounds.empty.map((e) => e.position)).toEqual(['WH-pH-1'])
    expect(rounds.rows.some((r) => r.position === 'WH-pH-1')).toBe(false)
    // A sensor may have no number; one that is no number of a label is refused.
    const long = await send<ProblemView>('/api/visits', {
      ...asker,
      position: 'WH-pH-1',
      procedure: 'commission-ph-two-point',
      standards: { first: 'pH7.00', second: 'pH4.01' },
      opening: { serial: '2'.repeat(501) },
    })
    expect(long.body.fields?.serial).toMatch(/under 500 characters/)
    const visit = await start('WH-pH-1', 'commission-ph-two-point', asker, {
      standards: { first: 'pH7.00', second: 'pH4.01' },
      opening: { serial: '2207', model: 'Glass pH, refillable' },
    })
    expect(visit.steps.map((s) => s.key).slice(0, 3)).toEqual(['hold', 'mount', 'rest'])
    const { body: probe } = await send<ProbeView>('/api/probes/WH-pH-1')
    expect(probe).toMatchObject({ serialNumber: '2207', calibrations: [], visits: [] })
  })

  it('a trip goes round in the order that rests on it, and is left and found again', async () => {
    const { body: trip } = await send<TripSummary>('/api/trips', {
      ...asker,
      name: 'Rinse line',
      positions: ['BR-N-1', 'BR-ORP-2', 'BR-pH-3'],
    })
    expect(trip.visits.map((v) => v.position)).toEqual(['BR-pH-3', 'BR-ORP-2', 'BR-N-1'])
    const first = walker(await start('BR-pH-3', 'ph-check', asker, { trip: trip.id }))
    expect(first.view().cautions.join(' ')).toMatch(/Mains equipment near water/)
    const second = await start('BR-ORP-2', 'orp-check', asker, { trip: trip.id, standards: { first: 'zobell' } })
    // Said once a trip; what is particular to this sensor is still said.
    expect(second.cautions.join(' ')).not.toMatch(/Mains equipment near water/)
    const open = (await send<RoundsView>('/api/rounds')).body.trips.find((t) => t.id === trip.id)
    expect(open?.visits.map((v) => v.step)).toEqual(['Hold outputs', 'Hold outputs', null])
  })
})

describe('Shelf and Ledger', () => {
  it('a captured point draws a pouring from its lot, and opens a new bottle', async () => {
    const left = async (lot: string) => (await send<ShelfView>('/api/shelf')).body.lots.find((l) => l.lot === lot)
    const before = await left('ZB-05')
    const { act, type } = walker(await start('CH-ORP-1', 'orp-check', asker, { standards: { first: 'zobell' } }))
    await act('done', { step: 'hold' })
    await act('skip', { step: 'found-process', reason: 'No flow' })
    await expect.poll(async () => (await send<ProbeView>('/api/probes/CH-ORP-1')).body.live.shown).not.toBeNull()
    await type('found-standard', '230', '22')
    const after = await left('ZB-05')
    expect((before?.left ?? 0) - (after?.left ?? 0)).toBe(20)
    expect(after?.uses[0]).toMatchObject({ milliliters: 20, position: 'CH-ORP-1' })
    const { toBuy } = (await send<ShelfView>('/api/shelf')).body
    expect(toBuy.find((b) => b.standard === 'pH9.21')?.why).toBe('No good lot is left.')
  })

  it('a closed record is corrected beside, never over, and everything goes out and comes in again without loss', async () => {
    const { body: rows } = await send<LedgerRow[]>('/api/ledger')
    const id = rows[0]?.id ?? ''
    const before = (await send<RecordView>(`/api/ledger/${id}`)).body.record
    const { body: corrected } = await send<RecordView>(`/api/ledger/${id}/corrections`, {
      operator: 'S. Osk',
      text: 'The thermometer was read in °F.',
    })
    expect(corrected.corrections.at(-1)?.text).toBe('The thermometer was read in °F.')
    expect(corrected.record).toEqual(before)

    const { body: out } = await send<{ visits: { id: string; entries: unknown[] }[] }>('/api/ledger/export.json')
    expect(out.visits.length).toBeGreaterThan(200)
    const again = await send('/api/ledger/import', out)
    expect(again.body).toEqual({ added: 0, known: out.visits.length, refused: [] })
    const forged = { ...out, visits: [{ ...out.visits[0], entries: [] }] }
    expect((await send<{ refused: unknown[] }>('/api/ledger/import', forged)).body.refused).toHaveLength(1)
    expect((await send<ProblemView>('/api/ledger/import', { format: 'else' })).body.code).toBe('unreadable-records')

    // Into an empty folder, and out again: the same document.
    const other = await startServer(readConfig({ FRUSTUM_DATA: join(demo.folder, 'other') }, null))
    onTestFinished(() => other.stop())
    const post = await fetch(`${other.url}/api/ledger/import`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(out),
    })
    expect(await post.json()).toEqual({ added: out.visits.length, known: 0, refused: [] })
    const back = (await (await fetch(`${other.url}/api/ledger/export.json`)).json()) as typeof out & {
      positions: object[]
    }
    expect(back.visits).toEqual(out.visits)
    const csv = await (await fetch(`${demo.url}/api/ledger/export.csv?visit=${id}`)).text()
    expect(csv.split('\r\n')[0]).toMatch(/^visit,closed_at,position,serial_number/)
    expect(csv).toContain('The thermometer was read in °F.')
  })
})

describe('reasons not to start', () => {
  it('a folder in use, one that cannot be written, a port taken, a port that is none: each one clear line', async () => {
    await expect(startServer(config({}))).rejects.toThrow(/is in use by process \d+\. Stop that one first/)
    const file = join(demo.folder, 'a-file')
    writeFileSync(file, '')
    await expect(startServer(config({ FRUSTUM_DATA: join(file, 'data') }))).rejects.toThrow(
      /cannot be written \(ENOTDIR\)/,
    )
    const blocker = createServer().listen(0, '127.0.0.1')
    await new Promise((resolve) => blocker.once('listening', resolve))
    const { port } = blocker.address() as { port: number }
    const spare = join(demo.folder, 'spare')
    mkdirSync(spare)
    const taken = config({ FRUSTUM_DATA: spare, PORT: String(port) })
    await expect(checkPort(taken)).rejects.toThrow(`Port ${port} is in use by another program.`)
    await expect(startServer(taken)).rejects.toThrow(`Port ${port} is in use by another program.`)
    blocker.close()
    expect(() => config({ PORT: 'eighty' })).toThrow('PORT is "eighty"; it must be a whole number from 1 to 65535.')
  })
})
