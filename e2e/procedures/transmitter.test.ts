import { modelOf, nernstSlope } from '@frustum/core'
import { fleet, processAt, truthAt } from '@frustum/demo'
import { BATHS, FAULT_BITS, StandInTransmitter } from '@frustum/lab/stand-ins'
import { describe, expect, it } from 'vitest'

/** A transmitter of a sensor of the station on a clock of its own. */
function transmitterOf(code: string) {
  const sensor = fleet().find((s) => s.code === code)
  if (!sensor) throw new Error(`No ${code}`)
  let seconds = 0
  const transmitter = new StandInTransmitter({
    truth: truthAt(sensor, 0),
    device: sensor.device,
    standards: sensor.standards,
    process: (at) => processAt(sensor, at),
    reportsResistances: sensor.reportsResistances ?? false,
    seed: 3,
    clock: { now: () => 1_795_000_000_000 + 1000 * seconds, rate: 1 },
  })
  const put = (bath: string) => transmitter.putInto(BATHS.indexOf(bath))
  const wait = (s: number) => {
    seconds += s
    return transmitter.read()
  }
  return { sensor, transmitter, put, wait }
}

describe('a stand-in transmitter', () => {
  it('comes to the value of the standard it is put into, and back to its water', () => {
    const { sensor, put, wait } = transmitterOf('CH-pH-1')
    const state = truthAt(sensor, 0)
    if (state.kind !== 'ph') throw new Error('pH expected')
    const { zero, slopeEfficiency } = state.truth
    const before = wait(1).signal
    put('pH10.01')
    const soon = wait(3).signal
    const settled = wait(1200)
    const expected = zero + slopeEfficiency * nernstSlope(settled.temperature) * (7 - 10.01)
    // The standard is at room temperature, where pH 10.01 reads a few hundredths higher.
    expect(Math.abs(settled.signal - expected)).toBeLessThan(4)
    expect(Math.abs(soon - settled.signal)).toBeGreaterThan(1)
    put('process')
    expect(Math.abs(wait(1200).signal - before)).toBeLessThan(3)
  })

  it('shows what its own calibration makes of the signal', () => {
    const { sensor, transmitter, wait } = transmitterOf('CH-pH-1')
    transmitter.calibration = { zero: 12, slopeEfficiency: 0.9 }
    const { signal, temperature, shown } = wait(1)
    const right = modelOf('ph').toShown(signal, temperature, { zero: 12, slopeEfficiency: 0.9 }, sensor.device)
    expect(shown).toBeCloseTo(right, 9)
  })

  it.each([
    ['dead', 'pH10.01', (right: number, faulty: number) => Math.abs(faulty - right) > 50],
    ['bubble', 'pH10.01', (right: number, faulty: number) => faulty > right + 3],
  ] as const)('%s moves the signal, and its end brings it back', (fault, bath, differs) => {
    const { transmitter, put, wait } = transmitterOf('CH-pH-1')
    put(bath)
    const right = wait(1200).signal
    transmitter.setFaults(FAULT_BITS[fault])
    expect(differs(right, wait(1).signal)).toBe(true)
    transmitter.setFaults(0)
    expect(Math.abs(wait(600).signal - right)).toBeLessThan(1)
  })

  it('an old value is left over until the display is renewed, and swapped cups give each other’s value', () => {
    const { transmitter, put, wait } = transmitterOf('CH-pH-1')
    put('pH7.00')
    const seven = wait(1200).signal
    transmitter.setFaults(FAULT_BITS.leftOver)
    put('pH10.01')
    expect(wait(600).signal).toBeCloseTo(seven, 0)
    transmitter.setFaults(0)
    const ten = wait(1200).signal
    expect(seven - ten).toBeGreaterThan(150)
    transmitter.setFaults(FAULT_BITS.swapped)
    expect(Math.abs(wait(1200).signal - seven)).toBeLessThan(4)
  })

  it('a unit slip is a thousand times too much, and stray voltage is in the tank only', () => {
    const { transmitter, put, wait } = transmitterOf('CH-pH-1')
    const { shown } = wait(1)
    transmitter.setFaults(FAULT_BITS.unitSlip)
    expect(wait(1).shown / shown).toBeCloseTo(1000, -1)
    transmitter.setFaults(0)
    put('pH7.00')
    const beaker = wait(1200).signal
    transmitter.setFaults(FAULT_BITS.stray)
    expect(Math.abs(wait(1).signal - beaker)).toBeLessThan(1)
    put('process')
    wait(1200)
    const stray = wait(1).signal
    transmitter.setFaults(0)
    expect(stray - wait(1).signal).toBeGreaterThan(20)
  })

  it('measures resistances only where its model can, and not of a plug; a crack conducts', () => {
    const { transmitter, put, wait } = transmitterOf('BR-pH-1')
    wait(1)
    const { glass = 0, junction = 0 } = transmitter.resistances()
    expect(glass).toBeGreaterThan(20)
    expect(junction).toBeGreaterThan(1)
    transmitter.setFaults(FAULT_BITS.dead)
    expect(transmitter.resistances().glass).toBeLessThan(5)
    transmitter.setFaults(0)
    put('plug')
    expect(transmitter.resistances()).toEqual({})
    expect(transmitterOf('CH-pH-1').transmitter.resistances()).toEqual({})
  })

  it('ignores a bath that there is none of, and takes what the simulator plays', () => {
    const { transmitter, put, wait } = transmitterOf('CH-pH-1')
    transmitter.putInto(9999)
    expect(BATHS[transmitter.immersion]).toBe('process')
    transmitter.simulated = { value: 177.5, temperature: 25 }
    put('simulator')
    expect(wait(1)).toMatchObject({ signal: 177.5, temperature: 25 })
  })
})
