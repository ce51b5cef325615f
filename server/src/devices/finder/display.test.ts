import { expect, it } from 'vitest'
import { readDisplayed } from './display.ts'

it('a display is read with its digits, its sign and its unit', () => {
  expect(readDisplayed('7.29')).toEqual({ value: 7.29, step: 0.01, unit: '' })
  expect(readDisplayed(' -182,4 mV')).toEqual({ value: -182.4, step: 0.1, unit: 'mV' })
  expect(readDisplayed('76.3F')).toEqual({ value: 76.3, step: 0.1, unit: '°F' })
  expect(readDisplayed('413')).toEqual({ value: 413, step: 1, unit: '' })
  expect(readDisplayed('1,413.5 µS/cm')).toEqual({ value: 1413.5, step: 0.1, unit: 'µS/cm' })
  expect(readDisplayed('1,413')).toEqual({ problem: '"1,413" can mean 1413 or 1.413. Enter one of them.' })
  for (const text of ['', 'pH', '7.29 in tank 3', '--.--', '7.2.9'])
    expect(readDisplayed(text), text).toEqual({ problem: expect.stringMatching(/^Enter the number as the display/) })
})
