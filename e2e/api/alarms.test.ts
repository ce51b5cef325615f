import { createServer } from 'node:http'
import type {
  AlarmHistoryView,
  AlarmView,
  Mapping,
  ProblemView,
  RoundsView,
  SeriesView,
  ThingView,
  VisitView,
} from '@frustum/contract'
import { quantity, registerAlarmType, say } from '@frustum/core'
import { expect, it, onTestFinished } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

const TOKEN = 'kQ3x9mZ7pL1vT5rN8wB2yC4d'
const OTHER = 'rS5t7uV9wX1yZ3aB5cD7eF9g'
const MINUTE = 60_000
const MAPPING: Mapping = {
  countsFrom: 0,
  format: 'json',
  value: { at: { field: '/ph' }, unit: '', scale: 1, offset: 0 },
}
const LIMITS = { low: 7.8, high: 8.4, highHigh: 8.8, hysteresis: 0.05, delaySeconds: 120 }

it('an alarm is raised, shelved, acknowledged, returns to normal, and outlives a restart; a visit raises none', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater')
  for (const [line, token] of [
    [1, TOKEN],
    [2, OTHER],
  ]) {
    await site.ask(`lines/${line}/token`, { operator, token })
    await site.ask(`lines/${line}`, { operator, protocol: 'push', mapping: MAPPING })
  }
  const send = async (ph: number, token = TOKEN) => {
    site.clock.set(site.clock.now() + MINUTE)
    const answer = await fetch(`${site.url()}/api/ingest/${token}`, { method: 'POST', body: JSON.stringify({ ph }) })
    expect(answer.status).toBe(200)
  }
  const alarms = () => site.get<AlarmView[]>('alarms')
  /** Sends until it is judged so: limits that were just set hold a moment later. */
  const until = (ph: number, isSo: (all: AlarmView[]) => boolean) =>
    expect
      .poll(async () => {
        await send(ph)
        return isSo(await alarms())
      })
      .toBe(true)

  const refused = await site.ask<ProblemView>('probes/T1-pH/limits', { operator, limits: { ...LIMITS, low: 8.6 } })
  expect(refused).toMatchObject({ status: 400, body: { code: 'invalid' } })
  expect((await site.ask('probes/T1-pH/limits', { operator, limits: LIMITS })).status).toBe(200)
  await send(8.1)
  expect(await alarms()).toEqual([])
  await until(8.6, (all) => all.length === 1)
  const [raised] = await alarms()
  expect(raised).toMatchObject({
    position: 'T1-pH',
    kind: 'high',
    severity: 'warning',
    value: 8.6,
    limit: 8.4,
    returnedAt: null,
  })
  // The sensor's own row says so, and not that it is in tolerance.
  const [row] = (await site.get<RoundsView>('rounds')).rows.filter((r) => r.position === 'T1-pH')
  expect([row?.state, plain(row?.alarm ?? '')]).toEqual(['alarm', expect.stringMatching(/high: /)])
  await until(8.9, (all) => all.length === 2)
  // The gravest first.
  expect((await alarms()).map((a) => a.kind)).toEqual(['high-high', 'high'])

  const id = raised?.id
  expect((await site.ask(`alarms/${id}/shelve`, { operator, minutes: 30, reason: ' ' })).status).toBe(400)
  const shelved = await site.ask<AlarmView[]>(`alarms/${id}/shelve`, {
    operator,
    minutes: 30,
    reason: 'dosing by hand',
  })
  expect(shelved.body.find((a) => a.id === id)?.shelved).toMatchObject({ by: operator, reason: 'dosing by hand' })
  const acknowledged = await site.ask<AlarmView[]>(`alarms/${id}/acknowledge`, { operator })
  expect(acknowledged.body.find((a) => a.id === id)?.acknowledged).toMatchObject({ by: operator })

  await site.restart()
  expect((await alarms()).length).toBe(2)
  // Back inside, but not by enough; then well, and what was acknowledged is no longer listed.
  await until(8.38, (all) => all.some((a) => a.kind === 'high-high' && a.returnedAt !== null))
  expect((await alarms()).find((a) => a.id === id)?.returnedAt).toBeNull()
  await until(8.2, (all) => !all.some((a) => a.id === id))
  expect(await alarms()).toMatchObject([{ kind: 'high-high', returnedAt: expect.any(Number), acknowledged: null }])
  await site.ask(`alarms/${(await alarms())[0]?.id}/acknowledge`, { operator })
  expect(await alarms()).toEqual([])
  const now = site.clock.now()
  const series = await site.get<SeriesView>(`probes/T1-pH/series?from=${now - 3_600_000 * 24}&to=${now}`)
  expect(series).toMatchObject({ limits: LIMITS, alarms: [{ kind: 'high' }, { kind: 'high-high' }] })

  const visit = await site.ask<VisitView>('visits', {
    operator,
    clientId: '4ef56a4d-db29-4d02-ba8b-47561f3ae86d',
    position: 'T1-pH',
    procedure: 'self-ph-two-point',
    standards: { first: 'pH7.00', second: 'pH10.01' },
    opening: {},
  })
  expect(visit.status).toBe(201)
  // Both read the same from here on. Beside the one that is in no visit, and raises it, the other is silent, also when
  // the server begins anew in the middle.
  expect((await site.ask('probes/T2-pH/limits', { operator, limits: LIMITS })).status).toBe(200)
  await site.restart()
  const both = async () => {
    await send(4.01)
    await send(4.01, OTHER)
    return (await alarms()).some((a) => a.position === 'T2-pH' && a.kind === 'low')
  }
  await expect.poll(both).toBe(true)
  expect((await alarms()).filter((a) => a.position === 'T1-pH')).toEqual([])
})

it('a shelved alarm stays shelved when it is raised again; the history of a period lists and counts them', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater')
  await site.ask('lines/1/token', { operator, token: TOKEN })
  await site.ask('lines/1', { operator, protocol: 'push', mapping: MAPPING })
  const limits = { high: 8.4, hysteresis: 0, delaySeconds: 0 }
  expect((await site.ask('probes/T1-pH/limits', { operator, limits })).status).toBe(200)
  const began = site.clock.now()
  const active = async () => (await site.get<AlarmView[]>('alarms')).filter((a) => a.returnedAt === null)
  const until = (ph: number, count: number) =>
    expect
      .poll(async () => {
        site.clock.set(site.clock.now() + MINUTE)
        await fetch(`${site.url()}/api/ingest/${TOKEN}`, { method: 'POST', body: JSON.stringify({ ph }) })
        return (await active()).length
      })
      .toBe(count)

  await until(8.6, 1)
  const [first] = await active()
  await site.ask(`alarms/${first?.id}/shelve`, { operator, minutes: 10_080, reason: 'probe cracked' })
  await until(8.1, 0)
  await until(8.7, 1)
  const [second] = await active()
  expect(second).toMatchObject({ acknowledged: null, shelved: { by: operator, reason: 'probe cracked' } })
  expect(second?.id).not.toBe(first?.id)
  await site.ask(`alarms/${second?.id}/unshelve`, { operator })
  expect((await active())[0]?.shelved).toBeNull()
  await site.ask(`alarms/${second?.id}/acknowledge`, { operator })

  const span = `from=${began}&to=${site.clock.now()}`
  const history = await site.get<AlarmHistoryView>(`alarms/history?${span}`)
  expect(history.alarms.map((a) => a.id)).toEqual([second?.id, first?.id])
  expect(history.statistics).toMatchObject({ count: 2, top: [{ kind: 'high', position: 'T1-pH', count: 2, share: 1 }] })
  const csv = await (await fetch(`${site.url()}/api/alarms/history.csv?${span}`)).text()
  const [heading, row, last] = csv.split('\r\n')
  expect(heading).toBe(
    'raised,acknowledged,acknowledged_by,returned_to_normal,sensor,place,connection,alarm,severity,value,limit,unit,text',
  )
  expect(row).toMatch(/^2026-01-15T\S+Z,2026-01-15T\S+Z,A\. Fenn,,T1-pH,Hall,.+,High,warning,8\.7,8\.4,pH,/)
  expect(last).toMatch(/^2026-01-15T\S+Z,,,2026-01-15T\S+Z,T1-pH,Hall,.+,High,warning,8\.6,8\.4,pH,/)
  expect((await site.ask<ProblemView>('alarms/history?from=5&to=1')).body).toMatchObject({ code: 'invalid' })
})

it('twins that part are noticed before the calendar, and a check of the likelier one is proposed until they agree', async () => {
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater\nT2-pH,pH,Hall,seawater')
  for (const [line, token] of [
    [1, TOKEN],
    [2, OTHER],
  ]) {
    await site.ask(`lines/${line}/token`, { operator, token })
    await site.ask(`lines/${line}`, { operator, protocol: 'push', mapping: MAPPING })
    const { values } = await site.get<ThingView>(`rig/position/${line}`)
    const edited = await site.ask(`rig/position/${line}`, {
      operator,
      values: { ...values, water: 'tank 1' },
      seen: values,
      mode: 'wrong',
    })
    expect(edited.status, JSON.stringify(edited.body)).toBe(200)
  }
  const both = async (one: number, other: number) => {
    site.clock.set(site.clock.now() + 10 * MINUTE)
    for (const [token, ph] of [
      [TOKEN, one],
      [OTHER, other],
    ])
      await fetch(`${site.url()}/api/ingest/${token}`, { method: 'POST', body: JSON.stringify({ ph }) })
  }
  const rounds = async () => (await site.get<RoundsView>('rounds')).checkNow
  for (let i = 0; i < 40; i++) await both(8.1, 8.12)
  expect(await rounds()).toEqual([])
  const until = (other: number, isSo: (proposed: RoundsView['checkNow']) => boolean) =>
    expect
      .poll(async () => {
        for (let i = 0; i < 6; i++) await both(8.1, other)
        return isSo(await rounds())
      })
      .toBe(true)
  await until(9.1, (proposed) => proposed.length === 1)
  const [proposed] = await rounds()
  expect(proposed).toMatchObject({ of: 'T1-pH' })
  expect(plain(proposed?.sentence)).toMatch(/^and T2-pH differ by \d\.\d\d pH; expected at most/)
  await until(8.11, (all) => all.length === 0)
})

it('a type of alarm that no other file knows is raised, said, ranked, told, counted, listed and ended', async () => {
  const forget = registerAlarmType({
    kind: 'even',
    name: 'Even number',
    severity: 'alarm',
    isOfWater: true,
    learns: { isLearned: () => false, onlyConnected: false },
    sentence: ({ value }) => say`reads an even number: ${[quantity(value ?? 0, '', 0)]}`,
    watch: {
      judges: 'plausible',
      verdict: (_, { value }) => ({ wants: value !== null && value % 2 === 0, delayMs: MINUTE, limit: 2 }),
    },
  })
  onTestFinished(forget)
  const received: string[] = []
  const hook = createServer((req, res) => {
    req.on('data', (bytes) => received.push(String(bytes)))
    req.on('end', () => res.end())
  })
  await new Promise<void>((resolve) => hook.listen(0, '127.0.0.1', resolve))
  onTestFinished(() => void hook.close())
  const site = await ownSite('code,kind,place,water\nT1-pH,pH,Hall,seawater')
  await site.ask('lines/1/token', { operator, token: TOKEN })
  await site.ask('lines/1', { operator, protocol: 'push', mapping: MAPPING })
  const address = `http://127.0.0.1:${(hook.address() as { port: number }).port}/`
  const wishes = {
    alarms: 'alarm',
    afterMinutes: 0,
    repeatMinutes: 0,
    from: 0,
    to: 0,
    digestHour: null,
    reminders: false,
  }
  const added = await site.ask('telling/recipients', { operator, name: 'Log', by: 'webhook', address, wishes })
  expect(added.body).toMatchObject({ recipients: [{ name: 'Log' }] })
  const send = async (ph: number) => {
    site.clock.set(site.clock.now() + MINUTE)
    await fetch(`${site.url()}/api/ingest/${TOKEN}`, { method: 'POST', body: JSON.stringify({ ph }) })
    return site.get<AlarmView[]>('alarms')
  }
  await expect.poll(async () => (await send(8)).length).toBe(1)
  const [alarm] = await send(8)
  expect(alarm).toMatchObject({ kind: 'even', name: 'Even number', severity: 'alarm', value: 8, limit: 2 })
  expect(plain(alarm?.sentence ?? '')).toBe('reads an even number: 8')
  expect(await site.get('alarms/learning')).toContainEqual({ kind: 'even', name: 'Even number', positions: ['T1-pH'] })
  await expect.poll(() => received.join('')).toContain('T1-pH reads an even number: 8')
  expect(received.join('')).toContain('Measure by other means')
  await site.restart()
  expect(await send(8)).toHaveLength(1)
  await expect.poll(async () => (await send(8.11))[0]?.returnedAt ?? null).not.toBeNull()
  const now = site.clock.now()
  const span = `from=${now - 3_600_000}&to=${now}`
  const history = await site.get<AlarmHistoryView>(`alarms/history?${span}`)
  expect(history.statistics.top).toMatchObject([{ kind: 'even', name: 'Even number', count: 1 }])
  const csv = await (await fetch(`${site.url()}/api/alarms/history.csv?${span}`)).text()
  expect(csv).toContain('reads an even number: 8')
})
