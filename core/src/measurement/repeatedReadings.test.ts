import { expect, it } from 'vitest'
import type { CapturedReading } from './capturedReading.ts'
import { meanOfReadings } from './repeatedReadings.ts'

const read = (signal: number, signalUncertainty = 0.4, temperature = 25): CapturedReading => ({
  source: 'line',
  signal,
  signalUncertainty,
  temperature,
  shown: null,
  stability: { state: 'stable', reason: 'known', seconds: 40, confidence: 99 },
  trace: [],
  signature: null,
  standard: { code: 'pH7.00', value: 7, lot: null, expired: false, openTooLong: false, daysOver: 0 },
})

it('the mean of three, and the standard deviation of their scatter', () => {
  // GUM (JCGM 100:2008) 4.2.1 and 4.2.2: mean 100, deviations -1, 0 and 1, s = 1.
  const { reading, scatter } = meanOfReadings([read(99), read(100), read(101)])
  expect(reading.signal).toBe(100)
  expect(scatter).toBe(1)
})

it('agreement narrows what one reading claims by less than the root of their number; scatter widens it', () => {
  const width = (...signals: number[]) => meanOfReadings(signals.map((s) => read(s))).reading.signalUncertainty
  expect(width(10, 10)).toBeLessThan(0.4)
  expect(width(10, 10)).toBeGreaterThan(0.4 / Math.SQRT2)
  expect(width(10, 10, 10)).toBeLessThan(width(10, 10))
  expect(width(10, 14)).toBeGreaterThan(0.4)
  // By hand: s0 = 0.4 / 1.96, pooled variance (8 s0^2 + 0.5 * 4^2) / 9, t of 9 degrees of freedom 2.26 (GUM, table G.2).
  expect(width(10, 14)).toBeCloseTo(2.26 * Math.sqrt((8 * (0.4 / 1.959964) ** 2 + 8) / 9 / 2), 9)
})

it('says of those that do not repeat that they are apart, whatever their order', () => {
  expect(meanOfReadings([read(10), read(10.5)]).apart).toBe(false)
  expect(meanOfReadings([read(10), read(11.5)]).apart).toBe(true)
  expect(meanOfReadings([read(11.5), read(10)]).apart).toBe(true)
})

it('a display that nobody saw is not made up, and one reading has no mean', () => {
  const [first, second] = [
    { ...read(10), shown: 7.02 },
    { ...read(10, 0.4, 26), shown: 7.04 },
  ]
  expect(meanOfReadings([first, second]).reading).toMatchObject({ shown: null, temperature: 25.5 })
  expect(() => meanOfReadings([first])).toThrow(RangeError)
})
