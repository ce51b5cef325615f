import fc from 'fast-check'
import { expect, it } from 'vitest'
import { readQuantity } from '../quantities/quantityText.ts'
import { quantityText, render, unitRead } from '../quantities/render.ts'
import { celsius, difference, quantity, say } from '../quantities/sentence.ts'
import { READER_CHOICES, type ReaderChoices, readerFrom, readerStyle, USUAL_READER } from './reader.ts'

const plainly = (text: string) => text.replaceAll('\u00a0', ' ').replaceAll('\u202f', ' ').replaceAll('\u2212', '-')
const reads = (choices: Partial<ReaderChoices>) => readerStyle({ ...USUAL_READER, ...choices })

it('sentences are in the units of who reads them, and so are differences', () => {
  const sentence = say`It is ${celsius(21.25)}, ${difference(0.5, '°C', 1)} apart, at ${quantity(52.9, 'mS/cm', 1)} and ${quantity(1413, 'µS/cm', 0)}.`
  expect(plainly(render(sentence, reads({ temperature: '°F', conductivity: 'mS/cm', decimals: 'comma' })))).toBe(
    'It is 70,3 °F, 0,9 °F apart, at 52,9 mS/cm and 1,413 mS/cm.',
  )
  expect(plainly(render(sentence, reads({ conductivity: 'ppm 500' })))).toBe(
    'It is 21.3 °C, 0.5 °C apart, at 26,450 ppm 500 and 707 ppm 500.',
  )
  // A comma marks decimals, so nothing that looks like one parts thousands.
  expect(plainly(quantityText(quantity(-348_700.5, 'mV', 1), reads({ decimals: 'comma' })))).toBe('-348 700,5 mV')
})

it('a number typed in one unit and read in another comes back with the same digits', () => {
  const scales = [
    { stored: '°C', topic: 'temperature', units: ['°C', '°F'] },
    { stored: 'µS/cm', topic: 'conductivity', units: ['µS/cm', 'mS/cm', 'CF', 'ppm 500', 'ppm 640', 'ppm 700'] },
  ] as const
  for (const { stored, topic, units } of scales) {
    for (const unit of units) {
      const style = reads({ [topic]: unit })
      const { decimals } = unitRead({ unit: stored, decimals: 3 }, style)
      fc.assert(
        fc.property(fc.integer({ min: 1, max: 99_999 }), (digits) => {
          const typed = (digits / 10 ** decimals).toFixed(decimals)
          const kept = readQuantity(`${typed} ${unit}`, stored)
          if (!kept.ok) throw new Error(kept.problem)
          const shown = quantityText({ value: kept.value, unit: stored, decimals: 3 }, style)
          expect(plainly(shown).replaceAll(',', '')).toBe(`${typed} ${unit}`)
        }),
        { numRuns: 200, seed: 5 },
      )
    }
  }
})

it('what was chosen with another version is taken as far as it is known', () => {
  expect(readerFrom({ temperature: '°F', clock: '13', decimals: 'comma', weekStart: 0 })).toEqual({
    ...USUAL_READER,
    temperature: '°F',
    decimals: 'comma',
    weekStart: '0',
  })
  expect(readerFrom({})).toEqual(USUAL_READER)
  expect(Object.keys(USUAL_READER)).toEqual(Object.keys(READER_CHOICES))
})

it('salt water is read in PSU, ppt or specific gravity, each for each other', () => {
  // A density of 1023.34 over 997.05 at 25 degC: UNESCO 44 (1983), algorithm 3.
  const shown = { S: quantity(35, 'PSU', 1), SG: quantity(1.0264, 'SG', 4) }
  const as = (salinity: ReaderChoices['salinity']) =>
    [shown.S, shown.SG].map((q) => plainly(quantityText(q, reads({ salinity }))))
  expect(as('device')).toEqual(['35.0 PSU', '1.0264 SG'])
  expect(as('SG')).toEqual(['1.0264 SG', '1.0264 SG'])
  expect(as('PSU')).toEqual(['35.0 PSU', '35.0 PSU'])
  expect(as('ppt')).toEqual(['35.0 ppt', '35.0 ppt'])
  expect(plainly(quantityText(difference(1, 'PSU', 1), reads({ salinity: 'SG' })))).toBe('0.0008 SG')
  fc.assert(
    fc.property(fc.double({ min: -5, max: 60, noNaN: true }), (salinity) => {
      const { of } = unitRead({ unit: 'S', decimals: 1 }, reads({ salinity: 'SG' }))
      const back = unitRead({ unit: 'SG', decimals: 4 }, reads({ salinity: 'PSU' }))
      expect(back.of(of(salinity))).toBeCloseTo(salinity, 4)
    }),
  )
})
