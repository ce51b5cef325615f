import { looksLikeFahrenheit, saysItsUnit } from '@frustum/contract'
import {
  assumedTemperature,
  expectedShown,
  findOtherSeaScale,
  findThousandfold,
  type Instrument,
  nullIfOutOfRange,
  type Progress,
  ROOM_TEMPERATURE,
  readTypedNumber,
  readTypedTemperature,
  type TemperatureSource,
  type TypedLine,
  typedInFahrenheit,
} from '@frustum/core'
import { Problem } from '../problem.ts'

/** A number as it was typed beside the device. */
export interface TypedBody {
  value: string
  shown?: string | undefined
  temperature?: string | undefined
  temperatureFrom?: string | undefined
  temperatureName?: string | undefined
  still?: boolean | undefined
}

/** What was typed as the record has it. @throws Problem that names the field */
export function typedLine(
  { evidence, current }: Progress,
  typed: TypedBody,
  thermometers: readonly Instrument[],
): TypedLine {
  const value = readTypedNumber(typed.value)
  if (!value.ok) throw new Problem(400, 'invalid', 'Type the reading as a number.')
  refuseOtherScale(evidence, value.value)
  refuseThousandfold(evidence, current, value.value)
  const shown = readTypedNumber(typed.shown ?? '')
  const also = { ...(shown.ok ? { shown: shown.value } : {}), ...(typed.still ? { still: true } : {}) }
  const text = (typed.temperature ?? '').trim()
  if (text === '') {
    const assumed = current && assumedTemperature(evidence, current)
    if (!assumed) {
      const message = 'Type the temperature of the standard.'
      throw new Problem(400, 'invalid', message, { fields: { temperature: message } })
    }
    return { value: value.value, temperature: assumed.value, temperatureFrom: { from: assumed.from }, ...also }
  }
  return {
    value: value.value,
    temperature: temperatureBeside({ evidence, current }, text),
    temperatureFrom: sourceOf(typed, thermometers),
    ...also,
  }
}

/** A temperature as it was typed at a step, degC. @throws Problem that names the field */
export function temperatureBeside({ evidence, current }: Pick<Progress, 'evidence' | 'current'>, text: string): number {
  const temperature = readTypedTemperature(text)
  if (!temperature.ok) {
    const message = 'Type the temperature as a number.'
    throw new Problem(400, 'invalid', message, { fields: { temperature: message } })
  }
  if (!saysItsUnit(text) && typedInFahrenheit(evidence, current, temperature.value)) {
    const message = looksLikeFahrenheit(text)
    throw new Problem(400, 'fahrenheit', message, { detail: 'Nothing was recorded.', fields: { temperature: message } })
  }
  return temperature.value
}

function sourceOf(
  { temperatureFrom: from, temperatureName: name = '' }: TypedBody,
  thermometers: readonly Instrument[],
): TemperatureSource {
  if (from === 'thermometer') {
    const known = thermometers.find((t) => t.name.toLowerCase() === name.trim().toLowerCase())
    return { from, name, ...(known ? { calibratedAt: known.calibratedAt } : {}) }
  }
  if (from === 'sensor') return { from, name }
  return { from: from === 'fixed' ? 'fixed' : 'device' }
}

/** Scales of salt water by the unit that a channel shows. */
const SEA_SCALES: Readonly<Record<string, 'salinity' | 'specific gravity'>> = {
  PSU: 'salinity',
  SG: 'specific gravity',
}

/** One scale of salt water typed for the other is named at once. @throws Problem */
function refuseOtherScale({ setup, model }: Progress['evidence'], value: number): void {
  // Of the channel that is typed: a device may have a cell and a pH input.
  const { unit } = model.shownScale(setup.device)
  const scale = SEA_SCALES[unit]
  const other = scale ? findOtherSeaScale(scale, value, setup.processValue) : null
  if (!other) return
  const message = `${value} looks like a ${other}; this display shows ${model.quantity(setup.device).toLowerCase()}.`
  throw new Problem(400, 'unit-slip', message, { detail: 'Nothing was recorded.', fields: { value: message } })
}

/** Microsiemens typed for millisiemens, or the other way round, by what this water or this standard is. @throws Problem */
function refuseThousandfold(e: Progress['evidence'], step: Progress['current'], value: number): void {
  const { unit } = e.model.shownScale(e.setup.device)
  const code = step?.medium === 'standard' && step.role ? e.setup.standards[step.role]?.code : undefined
  const usual = nullIfOutOfRange(() => {
    const right = code ? e.model.standardValue(code, ROOM_TEMPERATURE, e.setup.device) : e.setup.processValue
    return expectedShown(e, right, code ? ROOM_TEMPERATURE : e.setup.processTemperature)
  })
  const typed = step?.medium === 'air' || usual === null ? null : findThousandfold(unit, value, usual)
  if (!typed) return
  const message = `${value} looks like ${typed}; this display shows ${unit}.`
  throw new Problem(400, 'unit-slip', message, { detail: 'Nothing was recorded.', fields: { value: message } })
}
