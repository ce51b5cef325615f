import type { AlarmView, Mapping, ProblemView, RoundsView, SeriesView, ThingView, VisitView } from '@frustum/contract'
import { expect, it } from 'vitest'
import { plain } from '../../core/src/testing/plain.ts'
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

it('an alarm is raised, seen, quiet, gone, and outlives a restart; a visit raises none', async () => {
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
    goneAt: null,
  })
  // The sensor's own row says so, and not that it is in tolerance.
  const [row] = (await site.get<RoundsView>('rounds')).rows.filter((r) => r.position === 'T1-pH')
  expect([row?.state, plain(row?.alarm ?? '')]).toEqual(['alarm', expect.stringMatching(/too high/)])
  await until(8.9, (all) => all.length === 2)
  // The gravest first.
  expect((await alarms()).map((a) => a.kind)).toEqual(['high-high', 'high'])

  const id = raised?.id
  expect((await site.ask(`alarms/${id}/quiet`, { operator, minutes: 30, reason: ' ' })).status).toBe(400)
  const quiet = await site.ask<AlarmView[]>(`alarms/${id}/quiet`, { operator, minutes: 30, reason: 'dosing by hand' })
  expect(quiet.body.find((a) => a.id === id)?.quiet).toMatchObject({ by: operator, reason: 'dosing by hand' })
  const seen = await site.ask<AlarmView[]>(`alarms/${id}/seen`, { operator })
  expect(seen.body.find((a) => a.id === id)?.seen).toMatchObject({ by: operator })

  await site.restart()
  expect((await alarms()).length).toBe(2)
  // Back inside, but not by enough; then well, and what was seen needs nobody any more.
  await until(8.38, (all) => all.some((a) => a.kind === 'high-high' && a.goneAt !== null))
  expect((await alarms()).find((a) => a.id === id)?.goneAt).toBeNull()
  await until(8.2, (all) => !all.some((a) => a.id === id))
  expect(await alarms()).toMatchObject([{ kind: 'high-high', goneAt: expect.any(Number), seen: null }])
  await site.ask(`alarms/${(await alarms())[0]?.id}/seen`, { operator })
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
  expect(plain(proposed?.sentence)).toMatch(/^and T2-pH are \d\.\d\d pH apart, more than both can explain/)
  await until(8.11, (all) => all.length === 0)
})
