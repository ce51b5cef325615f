import type { Channel } from '@frustum/contract'
import { describe, expect, it } from 'vitest'
import { faultOf, rawFor, readChannel } from './channel.ts'

const at = { table: 'input', address: 1, type: 'int16', order: 'ABCD' } as const
const channel = (change: Partial<Channel> = {}): Channel => ({ at, unit: '', scale: 1, offset: 0, ...change })

describe('what is made of a raw number', () => {
  it('is scaled, shifted, and put into the unit that is wanted', () => {
    expect(readChannel({ value: 729 }, channel({ scale: 0.01 }), 'pH')).toEqual({ value: 7.29 })
    expect(readChannel({ value: 768 }, channel({ scale: 0.1, unit: '°F' }), '°C')).toEqual({
      value: expect.closeTo(24.889, 3),
    })
    expect(readChannel({ value: 1.413 }, channel({ unit: 'mS/cm' }), 'µS/cm')).toEqual({ value: 1413 })
    expect(readChannel({ value: 5 }, channel({ unit: 'mV' }), '°C')).toMatchObject({ missing: expect.any(String) })
  })

  it('is nothing where the device says so, or where it cannot be', () => {
    const none = ['9999', '-32768', '0x8000']
    for (const raw of [{ value: 9999 }, { value: -32768 }, { value: -1, bits: 0x8000n }, { value: null }])
      expect(readChannel(raw, channel({ none }), '')).toHaveProperty('missing')
    expect(readChannel({ value: -1, bits: 0xffffn }, channel({ none }), '')).toEqual({ value: -1 })
    expect(readChannel({ value: 15 }, channel({ low: 0, high: 14 }), '')).toEqual({ missing: 'is 15, above 14' })
    expect(readChannel({ value: 3e38 }, channel({ scale: 1e12 }), '')).toHaveProperty('value')
  })

  // NAMUR NE 43: a measurement is from 3.8 to 20.5 mA; up to 3.6 and from 21 on it is a failure.
  it.each([
    [4, { value: 0 }],
    [20, { value: 14 }],
    [12, { value: 7 }],
    [3.8, { value: -0.175 }],
    [20.5, { value: 14.4375 }],
    [3.5, { missing: 'signals a fault: 3.5 mA, below 3.6' }],
    [22, { missing: 'signals a fault: 22 mA, above 21' }],
    [0, { missing: 'signals a fault: 0 mA, below 3.6' }],
  ])('%d mA of a transmitter from pH 0 to 14', (current, reading) => {
    const loop = channel({ unit: 'mA', span: { at4: 0, at20: 14, unit: '' } })
    const read = readChannel({ value: current }, loop, 'pH')
    if ('value' in reading) expect(read).toEqual({ value: expect.closeTo(reading.value, 9) })
    else expect(read).toEqual(reading)
  })

  it('is written back within its limits as it would be read', () => {
    const writable = channel({ scale: 0.1, offset: 2, low: 0, high: 110, unit: '%' })
    expect(rawFor(98.2, writable, '%') * 0.1 + 2).toBeCloseTo(98.2, 9)
    expect(() => rawFor(120, writable, '%')).toThrow('above 110')
    expect(rawFor(25, channel({ unit: '°F' }), '°C')).toBeCloseTo(77, 9)
  })
})

it('what a device says of itself is a fault by its bits or its words', () => {
  const status = { at, bits: [0, 3], values: ['offline', '99'] }
  expect(faultOf(8, status)).toBe('its status bit 3 is set')
  expect(faultOf(4, status)).toBeNull()
  expect(faultOf('offline', status)).toBe('its status is offline')
  expect(faultOf(99, { at, values: ['99'] })).toBe('its status is 99')
})
