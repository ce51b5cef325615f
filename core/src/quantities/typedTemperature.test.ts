import { describe, expect, it } from 'vitest'
import { isFahrenheit, readTypedTemperature, readTypedTemperatureDifference } from './typedTemperature.ts'

describe('a typed temperature', () => {
  it('is in °C unless it says °F', () => {
    for (const text of ['24.4', '24,4', '24.4C', '24.4 °C', ' 24.4 c '])
      expect(readTypedTemperature(text)).toEqual({ ok: true, value: 24.4 })
    for (const text of ['76F', '76 F', '76°F', '76 ° f', '76,0 deg F']) {
      const read = readTypedTemperature(text)
      expect(read.ok && read.value).toBeCloseTo(24.444, 3)
    }
    expect(readTypedTemperature('32F')).toEqual({ ok: true, value: 0 })
    expect(readTypedTemperature('-40 F')).toEqual({ ok: true, value: -40 })
  })

  it('as a difference has no zero of its own', () => {
    for (const text of ['0.5', '0,5 C', '0.9 F', '0,9°F']) {
      const read = readTypedTemperatureDifference(text)
      expect(read.ok && read.value).toBeCloseTo(0.5, 12)
    }
    expect(readTypedTemperatureDifference('half').ok).toBe(false)
  })

  it('is refused where it is none', () => {
    expect(readTypedTemperature('')).toEqual({ ok: false, problem: 'empty' })
    expect(readTypedTemperature(' F')).toEqual({ ok: false, problem: 'empty' })
    for (const text of ['warm', '24 K', '24.4.1', '76FF']) expect(readTypedTemperature(text).ok).toBe(false)
  })

  it('without a unit is taken for °F only where °C makes no sense and °F does', () => {
    expect([76, 76.6, 80, 70].map((t) => isFahrenheit(t, 24))).toEqual([true, true, true, true])
    expect([24, 20, 30, 45, 100, 0].map((t) => isFahrenheit(t, 24))).toEqual([false, false, false, false, false, false])
    // Hot water at 76 °C is what it says.
    expect(isFahrenheit(76, 75)).toBe(false)
  })
})
