import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { numberText, PLAIN_STYLE, quantityText, render, type TextStyle } from './render.ts'
import {
  celsius,
  days,
  degreesApart,
  difference,
  exactly,
  figures,
  millivolts,
  quantity,
  say,
  signedQuantity,
} from './sentence.ts'

const FAHRENHEIT: TextStyle = { ...PLAIN_STYLE, units: { temperature: '°F', conductivity: 'mS/cm' } }

describe('a sentence', () => {
  it('joins words, quantities and other sentences to flat parts, and is a text where it holds none', () => {
    const inner = say`at ${celsius(22)}`
    expect(say`It reads ${millivolts(-170.04)} ${inner}.`).toEqual([
      'It reads ',
      { value: -170.04, unit: 'mV', decimals: 1 },
      ' at ',
      { value: 22, unit: '°C', decimals: 1 },
      '.',
    ])
    expect(say`Lot ${'A-1'} is ${'good'}.`).toBe('Lot A-1 is good.')
    expect(say``).toBe('')
  })

  it('survives storage and transport as it is', () => {
    const sentence = say`Since ${{ at: 0 }}: ${days(3)}, ${difference(0.1, 'pH', 2)}.`
    expect(render(JSON.parse(JSON.stringify(sentence)))).toBe(render(sentence))
    expect(render(sentence)).toBe('Since 1970-01-01 00:00: 3\u00a0days, 0.10\u00a0pH.')
  })
})

describe('a quantity as it is written', () => {
  it('has a true minus, no minus zero, marked thousands, its unit behind it, and pH before a level', () => {
    expect(quantityText(quantity(-348_700, 'mV', 0))).toBe('\u2212348,700\u00a0mV')
    expect(quantityText(quantity(-0.004, 'mV', 1))).toBe('0.0\u00a0mV')
    expect(quantityText(quantity(8.124, 'pH', 2))).toBe('pH\u00a08.12')
    expect(quantityText(signedQuantity(-0.02, 'pH', 2))).toBe('\u22120.02\u00a0pH')
    expect(quantityText(signedQuantity(0, '%', 1))).toBe('0.0\u00a0%')
    expect(quantityText(quantity(1.0264, '', 4))).toBe('1.0264')
  })

  it('follows the units that the reader wants: a level with its zero, a difference without', () => {
    expect(render(say`${celsius(25)}`, FAHRENHEIT)).toBe('77.0\u00a0°F')
    expect(render(say`${degreesApart(5)}`, FAHRENHEIT)).toBe('9.0\u00a0°F')
    // Three decimals more where the unit is a thousand times as large.
    expect(render(say`${quantity(1413, 'µS/cm', 0)}`, FAHRENHEIT)).toBe('1.413\u00a0mS/cm')
    expect(render(say`${millivolts(3)}`, FAHRENHEIT)).toBe('3.0\u00a0mV')
  })

  it('is read back as the number that it was, to its decimals', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.integer({ min: 0, max: 4 }),
        (value, decimals) => {
          const back = Number(numberText(value, decimals).replaceAll(',', '').replace('\u2212', '-'))
          expect(Math.abs(back - value)).toBeLessThanOrEqual(0.5 * 10 ** -decimals + 1e-6)
        },
      ),
    )
  })

  it('keeps the figures that are asked for, and what was given exactly', () => {
    expect([1234, 12.34, 0.01234, 0].map((v) => figures(v, 3))).toEqual([0, 1, 4, 0])
    expect([0.125, 20, 1e-7, 1 / 3].map((v) => quantityText(exactly(v)))).toEqual([
      '0.125',
      '20',
      '0.0000001',
      '0.333333',
    ])
  })
})
