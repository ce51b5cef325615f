import { expect, it } from 'vitest'
import { decimalMarkOf, inOneWay, readTypedNumber, typedNumberProblem } from './typedNumber.ts'

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

it('refuses what can be read in two ways until it is known what marks decimals', () => {
  expect(readTypedNumber('1,413')).toEqual({ ok: false, problem: 'two-ways' })
  expect(readTypedNumber('\u2212348,700')).toEqual({ ok: false, problem: 'two-ways' })
  expect(readTypedNumber('1,413', 'comma')).toEqual({ ok: true, value: 1.413 })
  expect(readTypedNumber('1,413', 'point')).toEqual({ ok: true, value: 1413 })
  // After a zero, and with other than three digits, there is one way.
  expect(readTypedNumber('0,413')).toEqual({ ok: true, value: 0.413 })
  expect(readTypedNumber('1,0264')).toEqual({ ok: true, value: 1.0264 })
  expect(readTypedNumber('7,05', 'point')).toEqual({ ok: true, value: 7.05 })
  expect(typedNumberProblem('1,413', 'two-ways')).toBe('"1,413" can mean 1413 or 1.413. Enter one of them.')
  expect(inOneWay('1,413', 'comma')).toBe('1.413')
  expect(inOneWay('1,413', 'point')).toBe('1413')
  expect(inOneWay('a note', 'comma')).toBe('a note')
})

it.each([
  [['1,413', '7,05'], 'comma'],
  [['1,413', '2.5'], 'point'],
  [['1.413,5'], 'comma'],
  [['1,413.5'], 'point'],
  [['1,413', '12', ''], undefined],
  [['7,05', '7.05'], undefined],
] as const)('of %j the decimal mark is %s', (texts, mark) => {
  expect(decimalMarkOf(texts)).toBe(mark)
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
