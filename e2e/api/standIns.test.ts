import { modelOf, nernstSlope } from '@frustum/core'
import { type FleetSensor, fleet, processAt, standInUnits, truthAt } from '@frustum/demo'
import { StandInControl, startStandIns } from '@frustum/lab/stand-ins'
import { floatMap } from '@frustum/server/extending'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { followed } from '../../lab/src/fixtures/followed.ts'
import { sensorAt } from '../../lab/src/fixtures/sensorAt.ts'
import type { CalibrationAccess } from '../../server/src/devices/link.ts'

const UNIT = 2
const sensor = fleet().find((s) => s.unit === UNIT) as FleetSensor

let standIns: Awaited<ReturnType<typeof startStandIns>>
let control: StandInControl

/** The transmitters of the station as a server follows them, each under the number of its unit. */
function line(of: readonly FleetSensor[] = [sensor]) {
  const { port } = standIns
  const opened = followed({ protocol: 'modbus-tcp', settings: { host: '127.0.0.1', port } })
  opened.driver.follow(
    of.map((s) => {
      const device = sensorAt(s.unit as number, { kind: s.kind, mapping: floatMap(s.kind, true) })
      return { ...device, sensors: device.sensors.map((one) => ({ ...one, setting: s.device })) }
    }),
  )
  const calibration = (unit: number) => opened.driver.link(unit)?.calibration as Required<CalibrationAccess>
  return { ...opened, calibration }
}

beforeEach(async () => {
  standIns = await startStandIns(standInUnits(fleet()))
  control = new StandInControl({ host: '127.0.0.1', port: standIns.port, unit: UNIT })
})
afterEach(async () => {
  control.close()
  await standIns.close()
})

describe('a transmitter on Modbus TCP', () => {
  it('reads what the electrode in its process gives', async () => {
    const reading = await line().next(UNIT)
    const state = truthAt(sensor, 0)
    if (state.kind !== 'ph') throw new Error('The nursery probe is one for pH.')
    const { zero, slopeEfficiency } = state.truth
    const ideal = zero + slopeEfficiency * 59.1 * (7 - processAt(sensor, Date.now()).value)
    expect(reading.signal).toBeCloseTo(ideal, -1)
    expect(Math.abs((reading.temperature ?? 0) - sensor.process.temperature)).toBeLessThan(1)
    expect(Math.abs(reading.at - Date.now())).toBeLessThan(500)
  })

  it('takes slope and zero, reads them back, and shows pH by them', async () => {
    const { calibration, next } = line()
    const held = await calibration(UNIT).write?.({ slopeEfficiency: 0.9512, zero: -14.3 })
    expect(held?.slopeEfficiency).toBeCloseTo(0.9512, 5)
    expect(held?.zero).toBeCloseTo(-14.3, 4)
    await next(UNIT)
    const { signal, temperature, shown } = await next(UNIT)
    const perPh = 0.9512 * nernstSlope(temperature as number)
    expect(shown).toBeCloseTo(7 - ((signal as number) + 14.3) / perPh, 2)
  })

  it('moves the probe of a stand-in, and keeps other units as they are', async () => {
    await control.putInto('pH7.00')
    expect(await control.state()).toEqual({ bath: 'pH7.00', faults: 0 })
    const other = new StandInControl({ host: '127.0.0.1', port: standIns.port, unit: 3 })
    expect((await other.state()).bath).toBe('process')
    other.close()
  })

  it('gives up on a silent device after asking twice, and works again when it is back', async () => {
    const { next, heard } = line()
    await next(UNIT)
    await control.setFaults(32)
    const began = Date.now()
    await expect.poll(() => heard(UNIT).at(-1), { timeout: 5000 }).toMatchObject({ code: 'no-answer' })
    expect(Date.now() - began).toBeLessThan(3000)
    await control.setFaults(0)
    await expect.poll(() => heard(UNIT).at(-1), { timeout: 5000 }).toHaveProperty('shown')
  })

  it('holds its outputs and lets them go, and nobody else has', async () => {
    const { driver } = line()
    await driver.link(UNIT)?.hold?.(true)
    await driver.link(UNIT)?.hold?.(false)
    expect(driver.exchanges.list().map((e) => e.outcome)).not.toContain('refused')
    expect(driver.link(99)).toBeNull()
  })
})

it('resistances come with the reading where the model measures them, and are left out where it does not', async () => {
  const measures = fleet().find((s) => s.reportsResistances && s.unit !== null) as FleetSensor
  const plain = fleet().find((s) => !s.reportsResistances && s.kind === 'ph' && s.unit !== null) as FleetSensor
  const { next } = line([measures, plain])
  const { resistances } = await next(measures.unit as number)
  expect(resistances?.glass).toBeGreaterThan(10)
  expect(resistances?.junction).toBeGreaterThan(1)
  expect((await next(plain.unit as number)).resistances).toBeUndefined()
})

it('every kind of stand-in shows what its own calibration makes of its signal, and keeps what it is given', async () => {
  const all = fleet().filter((s) => s.unit !== null)
  const { calibration, next } = line(all)
  for (const one of all) {
    const model = modelOf(one.kind)
    const unit = one.unit as number
    const wanted = Object.fromEntries(
      model.parameters.map(({ key, unit: in_ }, i) => [
        key,
        in_ === '°C' ? 20 + 4 * i : in_ === '' || in_ === '%' ? 0.9375 : in_ === 'µS/cm' ? 0 : 2.5,
      ]),
    )
    const held = (await calibration(unit).write?.(wanted)) ?? {}
    for (const [key, value] of Object.entries(wanted))
      expect([one.code, key, held[key]]).toEqual([one.code, key, value])
    await next(unit)
    const { signal, temperature, shown } = await next(unit)
    const right = model.toShown(signal as number, temperature as number, held, one.device)
    expect(Math.abs((shown as number) / right - 1), one.code).toBeLessThan(1e-3)
  }
})
