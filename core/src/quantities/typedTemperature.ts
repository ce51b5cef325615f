import { type DecimalMark, readTypedNumber, type TypedNumber } from './typedNumber.ts'

/**
 * Reads a temperature as people type it: in °C, or in °F where "F" or "°F" stands behind it.
 * @returns degC
 * @example readTypedTemperature('76 °F') // { ok: true, value: 24.444444444444443 }
 */
export const readTypedTemperature = (text: string, mark?: DecimalMark): TypedNumber =>
  readDegrees(text, mark, (fahrenheit) => (fahrenheit - 32) / 1.8)

/**
 * Reads a difference of temperatures as typed by hand, in °C unless °F stands behind it.
 * @example readTypedTemperatureDifference('0.9 °F') // { ok: true, value: 0.5 }
 */
export const readTypedTemperatureDifference = (text: string, mark?: DecimalMark): TypedNumber =>
  readDegrees(text, mark, (fahrenheit) => fahrenheit / 1.8)

function readDegrees(text: string, mark: DecimalMark | undefined, fromF: (fahrenheit: number) => number): TypedNumber {
  const [, number = '', unit] = /^(.*?)\s*(?:°|º|deg)?\s*([cf])?\s*$/is.exec(text) ?? []
  const read = readTypedNumber(number, mark)
  return read.ok && unit?.toLowerCase() === 'f' ? { ok: true, value: fromF(read.value) } : read
}

/** So near to the usual temperature in °F, and so far from it in °C, a number is taken for °F, degC. */
const NEAR = 8
const FAR = 15

/**
 * Whether a number typed without a unit is a temperature in °F: far from what it should be as °C, near to it as °F.
 * @param typed as it was typed @param usual degC
 * @example isFahrenheit(76, 24) // true
 */
export function isFahrenheit(typed: number, usual: number): boolean {
  return Math.abs(typed - usual) > FAR && Math.abs((typed - 32) / 1.8 - usual) < NEAR
}

/**
 * What is said of a number that is likely in °F only.
 * @example looksLikeFahrenheit('77').startsWith('77 looks like °F') // true
 */
export const looksLikeFahrenheit = (text: string) =>
  `${text} looks like °F: choose °F beside it, or type C behind it if it is that hot.`

/**
 * Whether a text says by itself in which unit its number is.
 * @example saysItsUnit('76 F') // true
 */
export const saysItsUnit = (text: string) => /[a-z]\s*$/i.test(text)
