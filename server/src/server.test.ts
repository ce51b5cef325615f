import { randomUUID } from 'node:crypto'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ProbeView, ProblemView, RoundsRow, VisitView } from '@frustum/contract'
import { fleet, processAt, truthAt } from '@frustum/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startStandIns } from '../../standins/src/modbusStandIns.ts'
import { readConfig, startServer } from './index.ts'

const folder = mkdtempSync(join(tmpdir(), 'frustum-server-'))
const asker = { clientId: randomUUID(), operator: 'S. Osk' }
let url: string
const stops: (() => Promise<void>)[] = []

const config = (env: NodeJS.ProcessEnv) => readConfig({ FRUSTUM_DATA: folder, ...env }, null)

beforeAll(async () => {
  const standIns = await startStandIns({ fleet: fleet(), truthAt, processAt, port: 0 })
  const server = await startServer(config({ FRUSTUM_DEMO: '1', STANDIN_PORT: String(standIns.port) }))
  url = server.url
  stops.push(server.stop, standIns.close)
})

afterAll(async () => {
  for (const stop of stops) await stop()
  rmSync(folder, { recursive: true, force: true })
})

async function send<T = VisitView>(path: string, body?: unknown, headers: Record<string, string> = {}) {
  const response = await fetch(url + path, {
    ...(body === undefined ? {} : { method: 'POST', body: typeof body === 'string' ? body : JSON.stringify(body) }),
    headers: { 'content-type': 'application/json', ...headers },
  })
  return { status: response.status, headers: response.headers, body: (await response.json()) as T }
}

const start = async (position: string, kind = 'two-point', who = asker) =>
  (await send('/api/visits', { ...who, position, kind, first: 'pH7.00', second: 'pH10.01' })).body

describe('the demo', () => {
  it('has 18 months of visits of eleven pH sensors, ordered by who needs hands first', async () => {
    const { body: rows } = await send<RoundsRow[]>('/api/rounds')
    expect(rows).toHaveLength(11)
    expect(rows[0]).toMatchObject({ position: 'CH-pH-2', driftState: 'out' })
    const keys = rows.map((r) => Math.min(r.leavesAt, r.figure.next.at))
    expect(keys.toSorted((a, b) => a - b)).toEqual(keys)
    const { body: probe } = await send<ProbeView>('/api/probes/CH-pH-2')
    const months = (Date.now() - (probe.visits.at(-1)?.at ?? 0)) / (30.4 * 86_400_000)
    expect(months).toBeGreaterThan(17.5)
    expect(probe.calibrations.length).toBeGreaterThan(8)
  })

  it('gives each stand-in the calibration that its record says is in force, and reads it live', async () => {
    const { body: probe } = await send<ProbeView>('/api/probes/BR-pH-2')
    await expect.poll(async () => (await send<ProbeView>('/api/probes/BR-pH-2')).body.live.ph).not.toBeNull()
    expect(Math.abs((probe.live.ph ?? 8.3) - 8.3)).toBeLessThan(0.25)
  })
})

describe('what the server refuses', () => {
  it.each([
    ['/api/visits', { ...asker, position: 'CH-pH-1', kind: 'two-point', first: 'pH7.00', second: 'pH8.00' }, 'second'],
    ['/api/visits', { ...asker, position: 'CH-pH-1', kind: 'dance', first: 'pH7.00', second: 'pH4.01' }, 'kind'],
    [
      '/api/visits',
      { ...asker, clientId: 'me', position: 'CH-pH-1', kind: 'check', first: 'pH7.00', second: 'pH4.01' },
      'clientId',
    ],
    ['/api/visits', { ...asker, position: 'CH-pH-1', kind: 'check', first: 'pH7.00', second: 'pH4.01', evil: 1 }, ''],
  ])('names the field that is wrong: %s %j', async (path, body, field) => {
    const answer = await send<ProblemView>(path, body)
    expect(answer.status).toBe(400)
    expect(answer.body).toMatchObject({ code: 'invalid', detail: 'Nothing was recorded.' })
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
    const own = await send('/api/site', undefined, { origin: url })
    expect(own.status).toBe(200)
    expect(own.headers.get('content-security-policy')).toContain("default-src 'self'")
    expect(own.headers.get('x-content-type-options')).toBe('nosniff')
    expect(own.headers.get('x-powered-by')).toBeNull()
  })

  it('one hand at a time: another client is told who holds it, and may take over', async () => {
    const visit = await start('WH-pH-2', 'check')
    const other = { clientId: randomUUID(), operator: 'T. Quillan' }
    const refused = await send<ProblemView>(`/api/visits/${visit.id}/done`, { ...other, step: 'hold' })
    expect([refused.status, refused.body.code]).toEqual([409, 'held'])
    expect(refused.body.message).toBe('S. Osk has this sensor in hand.')
    await send(`/api/visits/${visit.id}/take-over`, other)
    expect((await send(`/api/visits/${visit.id}/done`, { ...other, step: 'hold' })).body.current).toBe('found-process')
    expect((await send(`/api/visits/${visit.id}/done`, { ...asker, step: 'found-process' })).status).toBe(409)
    expect((await start('WH-pH-2', 'two-point', other)).id).toBe(visit.id)
  })

  it('keeps a step from being done twice, or out of turn', async () => {
    const visit = await start('WH-pH-3')
    const both = await Promise.all([1, 2].map(() => send(`/api/visits/${visit.id}/done`, { ...asker, step: 'hold' })))
    expect(both.map((b) => b.status).toSorted()).toEqual([200, 409])
    expect((await send(`/api/visits/${visit.id}/done`, { ...asker, step: 'rinse' })).status).toBe(409)
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
    await send('/api/standins/BR-pH-1', { faults: 32 })
    await new Promise((resolve) => setTimeout(resolve, 3500))
    const blind = await send<ProblemView>(`/api/visits/${visit.id}/capture`, {
      ...asker,
      step: 'found-process',
      earlyReason: 'No time',
    })
    expect([blind.status, blind.body.code]).toEqual([409, 'blind'])
    await send('/api/standins/BR-pH-1', { faults: 0 })
  })
})

describe('a display-only sensor, by typed readings', () => {
  it('goes through a whole calibration: slope and zero from displayed values, keyed in by hand', async () => {
    let visit = await start('CH-pH-4')
    const act = async (action: string, body: object) => {
      const answer = await send(`/api/visits/${visit.id}/${action}`, { ...asker, ...body })
      expect(answer.body, `${action} ${JSON.stringify(body)}`).toHaveProperty('steps')
      visit = answer.body
    }
    const type = async (step: string, value: string) => {
      await act('typed', { step, value, temperature: '22,0' })
      await act('capture', { step, earlyReason: 'Testing' })
    }
    await act('done', { step: 'hold' })
    const slip = await send<ProblemView>(`/api/visits/${visit.id}/typed`, {
      ...asker,
      step: 'found-process',
      value: '8050',
      temperature: '22',
    })
    expect(slip.body.fields?.value).toMatch(/must lie within -1 to 15.*decimal mark/)
    await type('found-process', '8.05')
    await type('found-buffer', '7,12')
    await act('skip', { step: 'clean', reason: 'It is clean' })
    await type('first-buffer', '7.12')
    await act('done', { step: 'rinse' })
    await type('second-buffer', '10.10')
    const { result, inForce } = visit
    // Displayed steps against true ones: 7.00 is 7.012 and 10.01 is 10.04 at 22 degC, so the span shown is 2.98 of 3.03.
    const shownSpan = 10.1 - 7.12
    const trueSpan =
      (result?.calibration?.points[1]?.bufferValue ?? 0) - (result?.calibration?.points[0]?.bufferValue ?? 0)
    expect(result?.calibration?.slopeEfficiency).toBeCloseTo((inForce.slopeEfficiency * shownSpan) / trueSpan, 6)
    expect(result?.errorNow).toBeGreaterThan(0.05)
    expect(result?.findings.filter((f) => f.code === 'taken-early')).toHaveLength(2)
    expect(result?.proposal.decision).toBe('adjust')

    const silent = await send<ProblemView>(`/api/visits/${visit.id}/decide`, { ...asker, decision: 'leave-alone' })
    expect([silent.status, silent.body.code]).toEqual([400, 'note-needed'])
    await act('decide', { decision: 'adjust' })
    expect((await send<ProblemView>(`/api/visits/${visit.id}/apply`, { ...asker, way: 'link' })).body.code).toBe(
      'not-writable',
    )
    await act('apply', { way: 'keyed', shownAfter: '7.01' })
    await type('verify', '7.01')
    await type('back', '7.95')
    await act('done', { step: 'release' })
    expect(visit).toMatchObject({ outcome: 'done', current: null, holder: null })
    expect(Math.abs(visit.asLeftError ?? 1)).toBeLessThan(0.02)
    expect(visit.next?.at).toBeGreaterThan(Date.now())

    const { body: probe } = await send<ProbeView>('/api/probes/CH-pH-4')
    expect(probe.visits[0]).toMatchObject({ id: visit.id, adjusted: true })
    expect(probe.inForce.zero).toBeCloseTo(result?.calibration?.zero ?? 0, 0)
    expect(
      (await send<ProblemView>(`/api/visits/${visit.id}/redo`, { ...asker, step: 'clean', reason: 'Too late' })).body
        .code,
    ).toBe('closed')
  })
})

describe('reasons not to start', () => {
  it('a folder in use, one that cannot be written, a port taken, a port that is none: each one clear line', async () => {
    await expect(startServer(config({}))).rejects.toThrow(/is in use by process \d+\. Stop that one first/)
    const file = join(folder, 'a-file')
    writeFileSync(file, '')
    await expect(startServer(config({ FRUSTUM_DATA: join(file, 'data') }))).rejects.toThrow(
      /cannot be written \(ENOTDIR\)/,
    )
    const blocker = createServer().listen(0, '127.0.0.1')
    await new Promise((resolve) => blocker.once('listening', resolve))
    const { port } = blocker.address() as { port: number }
    const spare = join(folder, 'spare')
    mkdirSync(spare)
    await expect(startServer(config({ FRUSTUM_DATA: spare, PORT: String(port) }))).rejects.toThrow(
      `Port ${port} is taken`,
    )
    blocker.close()
    expect(() => config({ PORT: 'eighty' })).toThrow('PORT is "eighty"; it must be a whole number from 1 to 65535.')
  })
})
