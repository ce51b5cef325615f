import { describe, expect, it } from 'vitest'
import { OutOfRange } from '../quantities/outOfRange.ts'
import { computeSheet, SHEETS, type Sheet, show } from './index.ts'

const initial = (sheet: Sheet) => Object.fromEntries(sheet.given.map((f) => [f.id, f.initial]))
const start = (sheet: Sheet) => (sheet.start ? { id: sheet.start.held, value: sheet.start.value } : null)
const sheetOf = (id: string) => SHEETS.find((s) => s.id === id) as Sheet
const values = (id: string, given: Record<string, number | string>, held: { id: string; value: number } | null) => {
  const sheet = sheetOf(id)
  const result = computeSheet(sheet, { ...initial(sheet), ...given }, held)
  return Object.fromEntries([...result.linked, ...result.outputs].map((r) => [r.field.id, r.value]))
}

describe.each(SHEETS.map((s) => [s.id, s] as const))('sheet %s', (_, sheet) => {
  it('works out as it opens: numbers, working, source and range', () => {
    const result = computeSheet(sheet, initial(sheet), start(sheet))
    for (const { value, field } of [...result.linked, ...result.outputs]) {
      expect(Number.isFinite(value), field.id).toBe(true)
      expect(show(value, field)).not.toMatch(/NaN|Infinity/)
    }
    expect(result.working.length).toBeGreaterThanOrEqual(2)
    for (const line of result.working) expect(line).not.toMatch(/NaN|Infinity|undefined/)
    expect(sheet.source.length * sheet.range.length).toBeGreaterThan(0)
    expect(result.curve?.points.length ?? 10).toBeGreaterThan(5)
  })

  it('gives the same whichever of its linked fields is held', () => {
    const first = computeSheet(sheet, initial(sheet), start(sheet))
    for (const { field, value } of first.linked) {
      const again = computeSheet(sheet, initial(sheet), { id: field.id, value })
      for (const [i, other] of again.linked.entries()) {
        const expected = first.linked[i]?.value as number
        expect(Math.abs(other.value - expected)).toBeLessThan(1e-6 * Math.max(1, Math.abs(expected)))
      }
    }
  })

  it('refuses what lies outside with a sentence, never with NaN', () => {
    for (const { id } of sheet.linked) {
      for (const value of [1e12, -1e12, Number.NaN]) {
        expect(() => computeSheet(sheet, initial(sheet), { id, value })).toThrow(OutOfRange)
      }
    }
    for (const field of sheet.given.filter((f) => f.kind === 'number' && !f.matters)) {
      expect(() => computeSheet(sheet, { ...initial(sheet), [field.id]: Number.NaN }, start(sheet))).toThrow(
        /not a number|must lie within/,
      )
    }
  })
})

describe('reckoner', () => {
  it('agrees with the field: 53.0 mS/cm at 25 degC is salinity 34.95 and 1.0263 at 25/25 (common practice, no source)', () => {
    const sea = values('seawater', { temperature: 25 }, { id: 'at25', value: 53 })
    expect(sea.salinity).toBeCloseTo(34.95, 2)
    expect(sea.gravity).toBeCloseTo(1.0263, 3)
  })

  it('holds the salinity while the temperature changes, and lets the conductivity follow', () => {
    const cold = values('seawater', { temperature: 15 }, { id: 'salinity', value: 35 })
    expect(cold.here).toBeCloseTo(42.91, 1)
    expect(cold.at25).toBeCloseTo(53.07, 2)
  })

  it('knows 2.1 mS/cm as CF 21 and ppm 1470 on the 700 scale; 17.9 Mohm cm as less than pure', () => {
    expect(values('ec-scales', {}, { id: 'cf', value: 21 }).ppm700).toBeCloseTo(1470, 9)
    const pure = values('pure-water', { temperature: 25 }, { id: 'resistivity', value: 17.9 })
    expect(pure.own).toBeCloseTo(18.18, 2)
    expect(pure.resistivity25).toBeCloseTo(17.9, 6)
  })

  it('an unknown held field or sheet value is a mistake, not a number', () => {
    expect(() => computeSheet(sheetOf('nitrate'), {}, null)).toThrow(/must be held/)
    expect(() => computeSheet(sheetOf('ph-buffer'), { buffer: 'none', temperature: 20 }, null)).toThrow(RangeError)
    expect(() => computeSheet(sheetOf('ph-buffer'), {}, null)).toThrow(/no choice/)
  })

  it('shows a real minus, no minus zero, and figures where decades are spanned', () => {
    expect(show(-12.34, { decimals: 1 })).toBe('\u221212.3')
    expect(show(-0.001, { decimals: 2 })).toBe('0.00')
    expect(show(0.0550055, { figures: 4 })).toBe('0.05501')
    expect(show(1413, { figures: 5 })).toBe('1413.0')
  })
})
