import {
  assumedTemperature,
  isFahrenheit,
  type Progress,
  readTypedNumber,
  readTypedTemperature,
  type TemperatureSource,
  type TypedLine,
} from '@frustum/core'
import { Problem } from '../problem.ts'

/** A number as it was typed beside the device. */
export interface TypedBody {
  value: string
  temperature?: string | undefined
  temperatureFrom?: string | undefined
  temperatureName?: string | undefined
  still?: boolean | undefined
}

/** Where standards usually stand, degC (common practice, no source). */
const ROOM = 22

/** What was typed as the record has it. @throws Problem that names the field */
export function typedLine({ evidence, current }: Progress, typed: TypedBody): TypedLine {
  const value = readTypedNumber(typed.value)
  if (!value.ok) throw new Problem(400, 'invalid', 'Type the reading as a number.')
  refuseOtherScale(evidence, value.value)
  const still = typed.still ? { still: true } : {}
  const text = (typed.temperature ?? '').trim()
  if (text === '') {
    const assumed = current && assumedTemperature(evidence, current)
    if (!assumed) {
      const message = 'Type the temperature of the standard.'
      throw new Problem(400, 'invalid', message, { fields: { temperature: message } })
    }
    return { value: value.value, temperature: assumed.value, temperatureFrom: { from: assumed.from }, ...still }
  }
  const temperature = readTypedTemperature(text)
  if (!temperature.ok) throw new Problem(400, 'invalid', 'Type the temperature as a number.')
  const usual = current?.medium === 'standard' ? ROOM : evidence.setup.processTemperature
  if (!/[a-z]\s*$/i.test(text) && isFahrenheit(temperature.value, usual)) {
    const message = `${text} looks like °F: type ${text} F, or ${text} C if it is that hot.`
    throw new Problem(400, 'fahrenheit', message, { detail: 'Nothing was recorded.', fields: { temperature: message } })
  }
  return { value: value.value, temperature: temperature.value, temperatureFrom: sourceOf(typed), ...still }
}

function sourceOf({ temperatureFrom: from, temperatureName }: TypedBody): TemperatureSource {
  if (from === 'thermometer' || from === 'sensor') return { from, name: temperatureName ?? '' }
  return { from: from === 'fixed' ? 'fixed' : 'device' }
}

/** Salinities are tens, specific gravities just above one: one typed for the other is named at once. @throws Problem */
function refuseOtherScale({ setup }: Progress['evidence'], value: number): void {
  const salinity = setup.device.display === 'salinity'
  // A weak salt water, or a dry cell, may show such a number.
  if (!salinity || setup.processValue < 10_000 || value < 1.005 || value > 1.035) return
  const message = `${value} looks like a specific gravity; this display shows salinity, such as 35.`
  throw new Problem(400, 'unit-slip', message, { detail: 'Nothing was recorded.', fields: { value: message } })
}
