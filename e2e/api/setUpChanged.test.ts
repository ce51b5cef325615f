import type { MovesView, ProbeView, RecordView, RoundsView, ThingView } from '@frustum/contract'
import { modelOf } from '@frustum/core'
import { expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { operator, ownSite } from '../support/ownSite.ts'

/** A water or a device that was noted wrong, or that has become another: what it does to what was found before. */

/** @param said slope and zero that the device said at the first */
const log = (said: string) =>
  [
    'Date;Tag;pH 7 before;pH 10 before;pH 7 after;pH 10 after;Temp;Slope (%);Offset (mV)',
    `03.04.2025;T1-pH;7.02;9.97;7.00;10.01;25;${said}`,
    '02.07.2025;T1-pH;7.04;9.93;7.00;10.01;25;;',
    '30.09.2025;T1-pH;7.05;9.90;7.00;10.01;25;;',
  ].join('\n')

async function calibrated(said = '98.7;-1.2') {
  const site = await ownSite('Code;Type;Place;Water\nT1-pH;pH;Fish room;nutrient\nT2-pH;pH;Fish room;nutrient')
  const brought = await site.bring(log(said), { take: true })
  expect(brought.status, JSON.stringify(brought.body)).toBe(200)
  const next = async () => {
    const { rows } = await site.get<RoundsView>('rounds')
    return rows.find((r) => r.position === 'T1-pH')?.figure.next
  }
  const change = async (path: string, values: object, more: object = {}) => {
    const { values: seen } = await site.get<ThingView>(path)
    const told = (await site.ask<MovesView>(`${path}/moves`, { values, ...more })).body
    const saved = await site.ask<ThingView>(path, { operator, values, seen, mode: 'wrong', ...more })
    expect(saved.status, JSON.stringify(saved.body)).toBe(200)
    return { told, saved: saved.body }
  }
  const undo = async (path: string, thing: ThingView) => {
    const line = thing.changes.find((c) => c.undo)
    expect((await site.ask(`${path}/changes/${line?.id}/undo`, { operator })).status).toBe(200)
  }
  const probe = () => site.get<ProbeView>('probes/T1-pH')
  return { ...site, next, change, undo, probe }
}

it('a usual value that was entered wrong: the errors found are those at the right one, and the dates move as told', async () => {
  const { next, change, undo, probe, get } = await calibrated()
  const before = await next()
  const visit = (await probe()).visits[0]
  const record = await get<RecordView>(`visits/${visit?.id}/record`)
  const { told, saved } = await change('rig/position/1', { processValue: '8.2' })
  expect(told.turns).toBe(true)
  expect(told.moves.map((m) => [m.position, m.before?.at])).toEqual([['T1-pH', before?.at]])
  expect(await next()).toEqual(told.moves[0]?.after)
  // The last calibration found 7.05 for 7.00 and 9.90 for 10.01: at 8.2 a straight line between lies this far off.
  const model = modelOf('ph')
  const characteristic = (await probe()).calibrations.at(-1)?.characteristic ?? {}
  const given = (await probe()).calibrations.at(-2)?.characteristic ?? {}
  const error = model.errorAt(characteristic, given, { value: 8.2, temperature: 25 }, {})
  expect(Math.abs(error - (0.05 + (1.2 / 3.01) * -0.16))).toBeLessThan(0.01)
  // What was closed says what it said.
  expect(await get<RecordView>(`visits/${visit?.id}/record`)).toEqual(record)
  await undo('rig/position/1', saved)
  expect(await next()).toEqual(before)
})

it('displays alone tell the errors at another usual value as well as a calibration that is known', async () => {
  const days = []
  for (const said of ['98.7;-1.2', ';']) {
    const site = await calibrated(said)
    await site.change('rig/position/1', { processValue: '9.4' })
    const { days: next, limitedBy } = (await site.next()) ?? {}
    days.push([next, limitedBy, (await site.probe()).calibrations.map((c) => Object.keys(c.characteristic).length)])
  }
  expect(days[0]?.slice(0, 2)).toEqual(days[1]?.slice(0, 2))
  expect(days.map((d) => d[2])).toEqual([
    [2, 2, 2],
    [0, 0, 0],
  ])
})

it('water that became another on a day: its drift is learned anew from then on, and a check is due', async () => {
  const { next, change, undo } = await calibrated()
  const before = await next()
  const path = 'rig/position/1'
  const { told, saved } = await change(path, { processValue: '8.2' }, { mode: 'changed', on: '2025-10-10' })
  expect(await next()).toEqual(told.moves[0]?.after)
  expect(plain((await next())?.reason ?? '')).toMatch(/Set up otherwise/)
  expect((await next())?.at).toBeLessThan(before?.at ?? 0)
  await undo(path, saved)
  expect(await next()).toEqual(before)
  // A usual value that moves a little is still the same water, and turns nothing.
  const near = await change(path, { processValue: '5.88' }, { mode: 'changed', on: '2025-12-01' })
  expect(near.told).toMatchObject({ turns: false })
  expect(await next()).toEqual(before)
})

it('a device: each sensor that it reads is told before it is saved', async () => {
  const { next, change, probe } = await calibrated()
  const fixed = { temperatureFrom: 'fixed', fixedTemperature: '5' }
  const { told } = await change('rig/device/1', fixed)
  expect(told.turns).toBe(true)
  expect(await next()).toEqual(told.moves.find((m) => m.position === 'T1-pH')?.after)
  // Whatever is calibrated, a device that takes 25 degC for 5 errs by the slope: it cannot be left right.
  // Nernst: pH - 7 is read by T / T set. Its usual value and temperature are those of the template.
  const { processValue, figure } = await probe()
  const left = (processValue - 7) * ((273.15 + 21) / (273.15 + 5) - 1)
  expect(figure.dots.at(-1)?.error).toBeCloseTo(left, 2)
  // How many digits it shows is no matter of its sensors.
  expect((await change('rig/device/1', { 'ph-decimals': '1' })).told).toEqual({ moves: [], turns: false })
})
