import { expect, it } from 'vitest'
import { readTypedNumber } from './typedNumber.ts'

it.each([
  ['7.03', 7.03],
  ['7,03', 7.03],
  [' 7.03 ', 7.03],
  ['-0,5', -0.5],
  ['\u22124.2', -4.2],
  ['1.413,5', 1413.5],
  ['1,413.5', 1413.5],
  ['1 413,5', 1413.5],
  ['.5', 0.5],
])('reads "%s" as %f', (text, value) => {
  expect(readTypedNumber(text)).toEqual({ ok: true, value })
})

it.each(['', '   '])('calls "%s" empty', (text) => {
  expect(readTypedNumber(text)).toEqual({ ok: false, problem: 'empty' })
})

it.each(['seven', '7..0', '7,0,3', '1e3', '7 pH', '--1', '1.41,3.5', '1.41,35', '0x10', 'NaN', '-'])(
  'refuses "%s" rather than guess',
  (text) => {
    expect(readTypedNumber(text)).toEqual({ ok: false, problem: 'not-a-number' })
  },
)
