import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { kindCalled, kindOf, modelOf, sensorKinds } from '../kinds/index.ts'
import { WATER_KINDS } from '../measurement/waters.ts'
import {
  codeKey,
  copiedCode,
  deviceFields,
  proposedCode,
  ruleFields,
  settingOf,
  settingValues,
  standingFields,
} from './fields.ts'
import { shownValue, templateFor, usualIn, valueShown } from './templates.ts'

describe('a proposed code', () => {
  it('has the initials of its place, the short of its kind, and the first number that is free', () => {
    expect(proposedCode('Fish room', 'ph', [])).toBe('FR-pH-1')
    expect(proposedCode('Fish room', 'ph', ['FR-pH-1', 'fr-PH-2', 'FR-EC-3'])).toBe('FR-pH-3')
    expect(proposedCode('the old boiler house, east', 'conductivity', [])).toBe('TOB-EC-1')
    expect(proposedCode('水槽', 'temperature', [])).toBe('水-T-1')
    expect(proposedCode('', 'orp', [])).toBe('ORP-1')
  })

  it('of a copy follows the original, with the initials of its own place', () => {
    const copy = (code: string, to: string, taken: string[] = []) => copiedCode(code, { from: 'Back room', to }, taken)
    expect(copy('BR-SG-1', 'Back room', ['BR-SG-1', 'br-sg-2'])).toBe('BR-SG-3')
    expect(copy('BR-SG-4', 'Grow room 2')).toBe('GR2-SG-1')
    expect(copy('br-sump', 'Hall')).toBe('H-sump-1')
    // Where the code doesn't name the place it stays as it is.
    expect(copy('Sump pH', 'Hall', ['Sump pH-1'])).toBe('Sump pH-2')
    expect(copy('Tank 7', 'Hall', ['Tank 1'])).toBe('Tank 2')
    expect(copy('BR-pH-1', '')).toBe('BR-pH-1')
  })

  it('is never one that is taken, whatever its case', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 30 })), fc.constantFrom(...sensorKinds()), (numbers, kind) => {
        const taken = numbers.map((n, i) => {
          const code = `H-${kindOf(kind).short}-${n}`
          return i % 2 ? code.toUpperCase() : code
        })
        expect(taken.map(codeKey)).not.toContain(codeKey(proposedCode('Hall', kind, taken)))
      }),
      { numRuns: 60 },
    )
  })
})

describe('the setting of a device', () => {
  it('goes into its fields and comes out the same, for every kind and water', () => {
    for (const kind of sensorKinds()) {
      for (const water of WATER_KINDS) {
        const { device } = templateFor(kind, water)
        const back = settingOf([kind], settingValues([kind], device))
        expect(settingOf([kind], settingValues([kind], back)), `${kind} in ${water}`).toEqual(back)
        expect(kindOf(kind).settingText(back)).toBe(kindOf(kind).settingText(device))
      }
    }
  })

  it('of a controller with several sensors asks each of its kinds once', () => {
    const keys = deviceFields(['ph', 'conductivity', 'conductivity', 'orp']).map((f) => f.key)
    expect(new Set(keys).size).toBe(keys.length)
    expect(keys).toEqual(expect.arrayContaining(['shows', 'adjustsBy', 'display', 'compensation', 'reference']))
    // A cell has no millivolts that a display could show.
    expect(deviceFields(['conductivity']).map((f) => f.key)).not.toContain('shows')
    const both = settingOf(['conductivity', 'orp'], {
      display: 'mS/cm',
      compensation: 'linear',
      coefficient: 2.1,
      referenceTemperature: 25,
      reference: 'agcl-3M',
    })
    expect(both).toEqual({
      display: 'mS/cm',
      compensation: { law: 'linear', alpha: 2.1, reference: 25 },
      reference: 'agcl-3M',
    })
  })
})

describe('the rules of a position', () => {
  it('lie within what the kind can be: every template does, nothing at all does not', () => {
    for (const kind of sensorKinds()) {
      for (const water of WATER_KINDS.filter((w) => usualIn(kind, w))) {
        const t = templateFor(kind, water)
        const fields = ruleFields(kind, t.device)
        const bounds = (key: string) => fields.find((f) => f.key === key)
        const tolerance = bounds('tolerance')
        expect(t.tolerance, `${kind} in ${water}`).toBeGreaterThanOrEqual(tolerance?.low ?? Number.NaN)
        expect(t.tolerance).toBeLessThanOrEqual(tolerance?.high ?? Number.NaN)
        expect(tolerance?.low).toBeGreaterThan(0)
        expect(bounds('processValue')?.unit === 'pH').toBe(false)
        expect(t.shown).toBeLessThanOrEqual(bounds('processValue')?.high ?? Number.NaN)
      }
    }
    expect(standingFields(['body A'], ['pond']).flatMap((f) => f.suggestions ?? [])).toEqual(['body A', 'pond'])
  })

  it('a usual value returns as it was typed, on every display', () => {
    const displays = kindOf('conductivity').setting?.fields.find((f) => f.key === 'display')?.choices ?? []
    for (const { value: display } of displays) {
      const device = settingOf(['conductivity'], {
        display,
        compensation: display === 'MΩ·cm' ? 'high-purity' : display.startsWith('s') ? 'seawater' : 'natural-water',
      })
      const shown =
        display === 'MΩ·cm' ? 15 : display === 'specific gravity' ? 1.0258 : display === 'salinity' ? 34.5 : 12
      const core = valueShown('conductivity', shown, 24, device)
      expect(shownValue('conductivity', core, 24, device), display).toBeCloseTo(shown, 6)
    }
    expect(shownValue('ph', 8.2, 25, {})).toBeCloseTo(8.2, 9)
    expect(shownValue('conductivity', -5, 25, { display: 'salinity' }) ?? 0).toBe(0)
  })
})

it('a kind is known by what people call it in their lists, and nothing is guessed', () => {
  const called: Record<string, string | null> = {
    pH: 'ph',
    ' PH ': 'ph',
    'EC (mS/cm)': 'conductivity',
    Salinity: 'conductivity',
    SG: 'conductivity',
    Redox: 'orp',
    'ORP mV': 'orp',
    Temp: 'temperature',
    'Free chlorine': 'chlorine',
    'Nitrate ISE': 'ion',
    Calcium: 'ion',
    phone: null,
    oxygen: null,
    '': null,
  }
  for (const [text, kind] of Object.entries(called)) expect([text, kindCalled(text)]).toEqual([text, kind])
  for (const kind of sensorKinds()) expect(kindCalled(kindOf(kind).name)).toBe(kind)
  expect(modelOf('ph').quantity({})).toBe('pH')
})
