import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { kindOf } from '../kinds/index.ts'
import { readOwnInputs } from './ownInputs.ts'

const read = (text: string, kind: Parameters<typeof kindOf>[0] = 'conductivity') => {
  const { simulator } = kindOf(kind)
  if (!simulator) throw new Error(kind)
  const inputs = readOwnInputs(text, simulator)
  return inputs.ok ? inputs.rows.map((row) => ({ ...row, label: plain(row.label) })) : inputs.problem
}

describe('inputs of one’s own', () => {
  it('are amounts with a unit, as a keyboard writes them, and what a thermistor box plays with what is right', () => {
    expect(read('40 Mohm.cm; 0 MΩ·cm; 5 uS/cm at 30; 1.4 mS/cm')).toEqual([
      { label: '40 MΩ·cm, 25 °C', signal: 1 / 40, temperature: 25 },
      { label: '0 MΩ·cm, 25 °C', signal: 1e6, temperature: 25 },
      { label: '5 µS/cm, 30 °C', signal: 5, temperature: 30 },
      { label: '1,400 µS/cm, 25 °C', signal: 1400, temperature: 25 },
    ])
    expect(read('9.8 kohm = 25.4; 32.6 kΩ = 0', 'temperature')).toEqual([
      { label: '9.8 kohm', right: 25.4 },
      { label: '32.6 kΩ', right: 0 },
    ])
    expect(read('-120 mV', 'ph')).toMatchObject([{ signal: -120, temperature: 25 }])
    expect(read('  ')).toEqual([])
  })

  it('that cannot be read are named, and nothing of the line is taken', () => {
    expect(read('40 Mohm.cm; warm')).toMatch(
      /^"warm" cannot be read: type an amount with its unit \(MΩ·cm, µS\/cm, mS\/cm\)/,
    )
    expect(read('-3 uS/cm')).toMatch(/cannot be read/)
    expect(read('1 = 2 = 3')).toMatch(/cannot be read/)
    expect(read(Array(13).fill('5 uS/cm').join(';'))).toBe('At most 12 inputs of your own.')
  })
})
