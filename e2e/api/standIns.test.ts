import { systemClock } from '@frustum/contract'
import { modelOf, nernstSlope } from '@frustum/core'
import { type FleetSensor, fleet, processAt, standInUnits, truthAt } from '@frustum/demo'
import { StandInControl, startStandIns } from '@frustum/standins'
import pino from 'pino'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { LiveValues } from '../../server/src/links/liveValues.ts'
import { ModbusLink } from '../../server/src/links/modbus/index.ts'

const UNIT = 2
const sensor = fleet().find((s) => s.unit === UNIT) as FleetSensor

let standIns: Awaited<ReturnType<typeof startStandIns>>
let link: ModbusLink
let control: StandInControl
const at = (unit: number) => ({ kind: 'modbus-tcp' as const, host: '127.0.0.1', port: standIns.port, unit })

beforeEach(async () => {
  standIns = await startStandIns(standInUnits(fleet()))
  link = new ModbusLink(at(UNIT), 'ph', systemClock)
  control = new StandInControl(at(UNIT))
})
afterEach(async () => {
  link.close()
  control.close()
  await standIns.close()
})

describe('a transmitter on Modbus TCP', () => {
  it('reads what the electrode in its process gives', async () => {
    const reading = await link.read()
    const state = truthAt(sensor, 0)
    if (state.kind !== 'ph') throw new Error('The nursery probe is one for pH.')
    const { zero, slopeEfficiency } = state.truth
    const ideal = zero + slopeEfficiency * 59.1 * (7 - processAt(sensor, Date.now()).value)
    expect(reading.signal).toBeCloseTo(ideal, -1)
    expect(Math.abs(reading.temperature - sensor.process.temperature)).toBeLessThan(1)
    expect(Math.abs(reading.at - Date.now())).toBeLessThan(500)
  })

  it('takes slope and zero, reads them back, and shows pH by them', async () => {
    const held = await link.writeCalibration({ slopeEfficiency: 0.9512, zero: -14.3 })
    expect(held.slopeEfficiency).toBeCloseTo(0.9512, 5)
    expect(held.zero).toBeCloseTo(-14.3, 4)
    const { signal, temperature, shown } = await link.read()
    const perPh = 0.9512 * nernstSlope(temperature)
    expect(shown).toBeCloseTo(7 - (signal + 14.3) / perPh, 2)
  })

  it('moves the probe of a stand-in, and keeps other units as they are', async () => {
    await control.putInto('pH7.00')
    expect(await control.state()).toEqual({ bath: 'pH7.00', faults: 0 })
    const other = new StandInControl(at(3))
    expect((await other.state()).bath).toBe('process')
    other.close()
  })

  it('gives up on a silent device after asking twice, and works again when it is back', async () => {
    await link.read()
    await control.setFaults(32)
    const began = Date.now()
    await expect(link.read()).rejects.toThrow()
    expect(Date.now() - began).toBeLessThan(2500)
    await control.setFaults(0)
    expect((await link.read()).shown).toBeGreaterThan(6)
  })
})

describe('resistances that a transmitter reports', () => {
  const lineTo = (unit: number) => new ModbusLink(at(unit), 'ph', systemClock)

  it('come with the reading where its model measures them, and are left out where it does not', async () => {
    const measures = fleet().find((s) => s.reportsResistances && s.unit !== null)
    const line = lineTo(measures?.unit as number)
    const { resistances } = await line.read()
    expect(resistances?.glass).toBeGreaterThan(10)
    expect(resistances?.junction).toBeGreaterThan(1)
    line.close()
    const plain = fleet().find((s) => !s.reportsResistances && s.kind === 'ph' && s.unit !== null)
    const other = lineTo(plain?.unit as number)
    expect((await other.read()).resistances).toBeUndefined()
    other.close()
  })
})

it('live values turn blind when the line is gone, keep the last reading apart, and recover', async () => {
  const live = new LiveValues(100, pino({ level: 'silent' }), systemClock)
  const heard: (number | null)[] = []
  live.add('X', link)
  const stop = live.listen('X', (reading) => heard.push(reading?.signal ?? null))
  await expect.poll(() => live.current('X').shown).not.toBeNull()
  expect(live.current('X').blindSince).toBeNull()
  await control.setFaults(32)
  await expect.poll(() => live.current('X').blindSince, { timeout: 5000 }).not.toBeNull()
  expect(heard).toContain(null)
  await control.setFaults(0)
  await expect.poll(() => live.current('X').blindSince, { timeout: 5000 }).toBeNull()
  stop()
  live.stop()
})

it('every kind of stand-in shows what its own calibration makes of its signal, and keeps what it is given', async () => {
  for (const one of fleet().filter((s) => s.unit !== null)) {
    const model = modelOf(one.kind)
    const line = new ModbusLink(at(one.unit as number), one.kind, systemClock)
    const wanted = Object.fromEntries(
      model.parameters.map(({ key, unit }, i) => [
        key,
        unit === '°C' ? 20 + 4 * i : unit === '' || unit === '%' ? 0.9375 : unit === 'µS/cm' ? 0 : 2.5,
      ]),
    )
    const held = await line.writeCalibration(wanted)
    for (const [key, value] of Object.entries(wanted))
      expect([one.code, key, held[key]]).toEqual([one.code, key, value])
    const { signal, temperature, shown } = await line.read()
    const right = model.toShown(signal, temperature, held, one.device)
    expect(Math.abs(shown / right - 1), one.code).toBeLessThan(1e-3)
    line.close()
  }
})

it('a simulator in place of the sensor plays what it is told', async () => {
  await control.simulate(177.5, 25)
  await control.putInto('simulator')
  const { signal, temperature, shown } = await link.read()
  expect([signal, temperature]).toEqual([177.5, 25])
  expect(shown).toBeCloseTo(7 - 177.5 / nernstSlope(25), 2)
})
