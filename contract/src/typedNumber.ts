import './validationMessages.ts'
import {
  type AssumedTemperature,
  type DeviceSetting,
  findOtherSeaScale,
  isFahrenheit,
  kindOf,
  looksLikeFahrenheit,
  readTypedNumber,
  readTypedTemperature,
  type SensorKind,
  saysItsUnit,
  TEMPERATURE_SOURCES,
  typedNumberProblem,
} from '@frustum/core'
import { type InferType, object, type StringSchema, string } from 'yup'
import { decimalMark } from './decimalMark.ts'

export interface TypedBounds {
  what: string
  /** Over the field. */
  label?: string
  /** The scale of the display, where it has a choice of them. */
  display?: string | undefined
  low: number
  high: number
  unit: string
  decimals: number
  /** Of the finished value, where the device shows it beside its signal. */
  beside?: TypedBounds
}

/** A number typed by hand: comma or point, within bounds, and a thousandfold slip named as such. */
export function typedNumber(bounds: TypedBounds): StringSchema<string>
export function typedNumber(
  bounds: TypedBounds,
  optional?: boolean,
  read?: typeof readTypedNumber,
): StringSchema<string | undefined>
export function typedNumber(
  { what, low, high, unit, decimals, display }: TypedBounds,
  optional = false,
  read = readTypedNumber,
) {
  const expected = `${low} to ${high}${unit && unit !== 'pH' ? ` ${unit}` : ''}`
  const text = optional ? string() : string().required(`Type the ${what}, ${expected}.`)
  return text.test('typed-number', `Type the ${what} as a number, ${expected}.`, function (typedText) {
    if (optional && (typedText ?? '').trim() === '') return true
    const typed = read(typedText ?? '', decimalMark())
    if (!typed.ok) {
      const message =
        typed.problem === 'empty'
          ? `Type the ${what}, ${expected}.`
          : typed.problem === 'two-ways'
            ? typedNumberProblem(typedText ?? '', typed.problem)
            : `"${typedText}" is not a number. Type the ${what}, such as ${exampleOf(low, high).toFixed(decimals)}.`
      return this.createError({ message })
    }
    const message = outside({ what, low, high, unit, decimals, display }, typed.value, typedText ?? '')
    return message === null || this.createError({ message })
  })
}

/** What is wrong with a number beyond its bounds, a thousandfold slip named as such; null within them. */
function outside(
  { what, low, high, unit, decimals, display }: TypedBounds,
  value: number,
  typedText: string,
): string | null {
  if (value >= low && value <= high) return null
  const slip = [10, 100, 1000].find((f) => value / f >= low && value / f <= high && value > high)
  const hint = slip ? ` Was it ${(value / slip).toFixed(decimals)}? A decimal mark seems to be missing.` : ''
  const expected = `${low} to ${high}${unit && unit !== 'pH' ? ` ${unit}` : ''}`
  // What a display of this scale cannot show at all; what only this water does not show is for who knows the water.
  const other = findOtherSeaScale(display, value, 0)
  if (other) return `${typedText} looks like a ${other}; this display shows ${what}, ${expected}.`
  return `The ${what} is ${typedText}; it must lie within ${expected}.${hint}`
}

const exampleOf = (low: number, high: number) => (high - low > 1000 ? Math.max(low, 10) : (low + high) / 2)

export const TEMPERATURE_BOUNDS = { what: 'temperature', low: -5, high: 110, unit: '°C', decimals: 1 } as const

/** The bounds of what a device shows, and so of what is typed. */
export function typedBounds(kind: SensorKind, device: DeviceSetting, shows: 'signal' | 'value'): TypedBounds {
  const { signalDisplay } = kindOf(kind)
  if (shows === 'signal' && signalDisplay) {
    return { what: 'potential', label: 'Millivolts', ...signalDisplay, beside: displayBounds(kind, device) }
  }
  return displayBounds(kind, device)
}

/** The bounds of the finished value that a device shows. */
export function displayBounds(kind: SensorKind, device: DeviceSetting): TypedBounds {
  const { model } = kindOf(kind)
  const { unit, decimals } = model.shownScale(device)
  const quantity = model.quantity(device)
  return {
    what: unit === 'pH' ? 'pH' : quantity.toLowerCase(),
    label: quantity,
    display: device.display,
    ...model.shownRange(device),
    unit,
    decimals,
  }
}

/** What is wrong with a temperature as it was typed, in °C or with the unit behind it; null where nothing is. */
function temperatureProblem(text: string, bounds: TypedBounds, usual: number | null): string | null {
  const read = readTypedTemperature(text)
  if (!read.ok) return `"${text}" is not a temperature. Type it in °C, or with F behind it.`
  if (usual !== null && !saysItsUnit(text) && isFahrenheit(read.value, usual)) return looksLikeFahrenheit(text)
  return outside(bounds, read.value, text)
}

/** A temperature typed by hand; `usual`, degC, tells what is likely in °F only. */
export function typedTemperature(bounds: TypedBounds, usual: number | null, optional = false) {
  const ask = `Type the ${bounds.what}, ${bounds.low} to ${bounds.high} °C.`
  const schema = optional ? string() : string().required(ask)
  return schema.test('typed-temperature', ask, function (typedText) {
    const text = (typedText ?? '').trim()
    if (text === '') return optional || this.createError({ message: ask })
    const message = temperatureProblem(text, bounds, usual)
    return message === null || this.createError({ message })
  })
}

/** What the fields of a typed reading must hold; the temperature may be left out where one is assumed. */
export const typedReadingFields = (bounds: TypedBounds, assumed: AssumedTemperature | null) =>
  object({
    value: typedNumber(bounds),
    /** The finished value, where the device shows it beside its signal. */
    shown: bounds.beside ? typedNumber(bounds.beside, true) : string().max(0, 'This device shows one number.'),
    temperature: typedTemperature(TEMPERATURE_BOUNDS, null, assumed !== null),
    temperatureFrom: string().oneOf(TEMPERATURE_SOURCES),
    /** Of the thermometer or the other sensor. */
    temperatureName: string()
      .trim()
      .max(80)
      .when(['temperatureFrom', 'temperature'], {
        // Nobody has to name with what was not read.
        is: (from: string, temperature?: string) =>
          (from === 'thermometer' || from === 'sensor') && (temperature ?? '').trim() !== '',
        // biome-ignore lint/suspicious/noThenProperty: this is the name that Yup gives the branch
        then: (name) => name.required('Which one?'),
      }),
  })

export type TypedReadingFields = InferType<ReturnType<typeof typedReadingFields>>
