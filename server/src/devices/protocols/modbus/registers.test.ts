import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BYTE_ORDERS, REGISTER_TYPES, type RegisterType } from './place.ts'
import { bitsOf, decodeRegisters, encodeRegisters } from './registers.ts'

const bytes = (hex: string) => Uint8Array.from(Buffer.from(hex.replaceAll(' ', ''), 'hex'))

const numbers: Readonly<Record<RegisterType, fc.Arbitrary<number>>> = {
  int16: fc.integer({ min: -32768, max: 32767 }),
  uint16: fc.integer({ min: 0, max: 65535 }),
  int32: fc.integer({ min: -2147483648, max: 2147483647 }),
  uint32: fc.integer({ min: 0, max: 4294967295 }),
  float32: fc.float({ noNaN: true, noDefaultInfinity: true }),
  float64: fc.double({ noNaN: true, noDefaultInfinity: true }),
  bcd16: fc.integer({ min: 0, max: 9999 }),
  bcd32: fc.integer({ min: 0, max: 99999999 }),
  bit: fc.integer({ min: 0, max: 1 }),
}

describe('numbers in registers', () => {
  // IEEE 754: 123.456 is 42F6E979 as a single, 405EDD2F1A9FBE77 as a double.
  it.each([
    ['float32', 'ABCD', '42F6 E979', 123.456],
    ['float32', 'CDAB', 'E979 42F6', 123.456],
    ['float32', 'BADC', 'F642 79E9', 123.456],
    ['float32', 'DCBA', '79E9 F642', 123.456],
    ['float64', 'ABCD', '405E DD2F 1A9F BE77', 123.456],
    ['float64', 'DCBA', '77BE 9F1A 2FDD 5E40', 123.456],
    ['int32', 'CDAB', 'FFFE FFFF', -2],
    ['uint32', 'ABCD', 'FFFF FFFE', 4294967294],
    ['int16', 'BADC', 'FEFF', -2],
    ['bcd16', 'ABCD', '0729', 729],
    ['bcd32', 'CDAB', '0729 0001', 10729],
  ] as const)('%s in the order %s: %s is %d', (type, order, hex, value) => {
    expect(decodeRegisters(bytes(hex), { type, order })).toBeCloseTo(value, 4)
    expect(encodeRegisters(value, { type, order }).toString('hex').toUpperCase()).toBe(hex.replaceAll(' ', ''))
  })

  it.each(REGISTER_TYPES)('%s comes back in every order as it was written', (type) => {
    fc.assert(
      fc.property(numbers[type], fc.constantFrom(...BYTE_ORDERS), (value, order) => {
        expect(decodeRegisters(encodeRegisters(value, { type, order }), { type, order })).toEqual(value)
      }),
    )
  })

  it('what is no number is none: NaN, infinity, a digit above 9', () => {
    expect(decodeRegisters(bytes('7FC0 0000'), { type: 'float32', order: 'ABCD' })).toBeNull()
    expect(decodeRegisters(bytes('7F80 0000'), { type: 'float32', order: 'ABCD' })).toBeNull()
    expect(decodeRegisters(bytes('07A9'), { type: 'bcd16', order: 'ABCD' })).toBeNull()
    expect(bitsOf(bytes('8000'), 'ABCD')).toBe(0x8000n)
    expect(decodeRegisters(bytes('0004'), { type: 'bit', order: 'ABCD', bit: 2 })).toBe(1)
  })

  it('what does not fit is not written as something else', () => {
    expect(() => encodeRegisters(32768, { type: 'int16', order: 'ABCD' })).toThrow('does not fit')
    expect(() => encodeRegisters(-1, { type: 'uint32', order: 'ABCD' })).toThrow('does not fit')
    expect(() => encodeRegisters(Number.NaN, { type: 'bcd16', order: 'ABCD' })).toThrow('does not fit')
  })
})
