import fc from 'fast-check'
import { expect, it } from 'vitest'
import { readQuantity } from './quantityText.ts'
import { READER_CHOICES, type ReaderChoices, readerFrom, readerStyle, USUAL_READER } from './reader.ts'
import { quantityText, render, unitRead } from './render.ts'
import { celsius, difference, quantity, say } from './sentence.ts'

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
