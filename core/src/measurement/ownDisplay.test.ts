import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { kindOf, modelOf, sensorKinds } from '../kinds/index.ts'
import type { DeviceSetting } from './measurementModel.ts'
import { outputCurrent } from './ownDisplay.ts'

describe('what is noted of a device', () => {
  it('its digits and what it can show hold for the kind they are noted of alone', () => {
    const device: DeviceSetting = { display: 'mS/cm', displays: { conductivity: { decimals: 1, low: 0, high: 5 } } }
    expect(modelOf('conductivity').shownScale(device)).toMatchObject({ unit: 'mS/cm', decimals: 1 })
    expect(modelOf('conductivity').shownRange(device)).toEqual({ low: 0, high: 5 })
    expect(modelOf('ph').shownScale(device).decimals).toBe(2)
    // What no such display can show is not made possible by a note.
    const wide: DeviceSetting = { displays: { ph: { low: -50, high: 50 } } }
    expect(modelOf('ph').shownRange(wide)).toEqual(modelOf('ph').shownRange({}))
  })

  it('a temperature set by hand errs as the Nernst slope and the coefficient say', () => {
    const [ph, cell] = [modelOf('ph'), modelOf('conductivity')]
    // Nernst: pH - 7 is read by T / T set; 1.2 pH in water of 18 degC at a device set to 25 degC.
    const error = ph.errorAt(ph.ideal, ph.ideal, { value: 8.2, temperature: 18 }, { fixedTemperature: 25 })
    expect(error).toBeCloseTo(1.2 * (291.15 / 298.15 - 1), 6)
    expect(ph.errorAt(ph.ideal, ph.ideal, { value: 8.2, temperature: 18 }, {})).toBeCloseTo(0, 9)
    // ISO 7888, linear compensation: 2 %/degC over 5 degC that the device knows nothing of.
    const device: DeviceSetting = {
      display: 'mS/cm',
      compensation: { law: 'linear', alpha: 2, reference: 25 },
      fixedTemperature: 25,
    }
    const raw = 1.8
    expect(cell.toShown(1000 * raw, 20, cell.ideal, device)).toBeCloseTo(raw, 9)
    expect(cell.toShown(1000 * raw, 20, cell.ideal, { ...device, fixedTemperature: 20 })).toBeCloseTo(raw / 0.9, 9)
    expect(cell.errorAt(cell.ideal, cell.ideal, { value: 1000 * raw, temperature: 20 }, device)).toBeCloseTo(-10, 6)
  })

  it('the signal behind a display is found again, whatever temperature it is set to', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...sensorKinds()),
        fc.double({ min: 0, max: 60, noNaN: true }),
        fc.double({ min: 0, max: 60, noNaN: true }),
        fc.double({ min: 0.01, max: 0.99, noNaN: true }),
        (kind, temperature, fixedTemperature, share) => {
          const { model } = kindOf(kind)
          const device: DeviceSetting = { fixedTemperature, display: 'mS/cm', ion: 'nitrate' }
          const signal = kind === 'ion' ? 100 * share : model.signalUnit === 'mV' ? 400 * (share - 0.5) : 40 * share
          const shown = model.toShown(signal, temperature, model.ideal, device)
          expect(model.fromShown(shown, temperature, model.ideal, device)).toBeCloseTo(signal, 6)
        },
      ),
    )
  })

  it('an output gives 4 to 20 mA over its span, either way round, and stops where it says that it is at its end', () => {
    const span = { at4: 0, at20: 14 }
    // IEC 60381-1: 4 to 20 mA; NAMUR NE 43: 3.8 and 20.5 mA are its ends.
    expect([0, 7, 14, -1, 20].map((v) => outputCurrent(v, span))).toEqual([4, 12, 20, 3.8, 20.5])
    expect(outputCurrent(7, { at4: 14, at20: 0 })).toBe(12)
    expect(outputCurrent(7, { at4: 3 })).toBeNull()
    expect(outputCurrent(7, { at4: 3, at20: 3 })).toBeNull()
  })
})
