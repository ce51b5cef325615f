import { findOtherSeaScale, findThousandfold } from '../calibration/slips.ts'
import type { Instrument } from '../measurement/instrument.ts'
import type { TemperatureSource } from '../measurement/temperatureSource.ts'
import { expectedShown } from '../procedures/assess.ts'
import type { VisitState } from '../procedures/procedure.ts'
import type { Step } from '../procedures/step.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { readTypedNumber } from '../quantities/typedNumber.ts'
import { isFahrenheit, looksLikeFahrenheit, readTypedTemperature, saysItsUnit } from '../quantities/typedTemperature.ts'
import { VisitRefusal } from './refusal.ts'
import type { Progress, TypedLine } from './visitReducer.ts'

/** Where standards usually stand, degC (common practice, no source). */
export const ROOM_TEMPERATURE = 22

/** Whether a temperature typed without its unit is one in °F, at this step. */
export const typedInFahrenheit = ({ setup }: VisitState, step: Step | null, typed: number): boolean =>
  isFahrenheit(typed, step?.medium === 'standard' ? ROOM_TEMPERATURE : setup.processTemperature)

/** The temperature that is taken where none is typed, and where it comes from. */
export interface AssumedTemperature {
  /** degC */
  value: number
  from: 'earlier' | 'usual'
}

/**
 * What a reading's temperature is taken to be when nobody types one: in the process the usual one; otherwise that of this
 * point before, of the same standard, or of the cup before, within one level of temperature. Null where it has to be read.
 */
export function assumedTemperature({ setup, readings, counting }: VisitState, step: Step): AssumedTemperature | null {
  if (step.medium === 'process') return { value: setup.processTemperature, from: 'usual' }
  const code = step.role ? setup.standards[step.role]?.code : undefined
  const beside = Object.entries(readings)
    .filter(([key, { standard }]) => standard && (step.sameLevel?.includes(key) ?? true))
    .map(([, reading]) => reading)
  const earlier = counting[step.key]?.at(-1) ?? beside.findLast((r) => r.standard?.code === code) ?? beside.at(-1)
  return earlier ? { value: earlier.temperature, from: 'earlier' } : null
}

/** A number as it was typed beside the device. */
export interface TypedReading {
  value: string
  shown?: string | undefined
  temperature?: string | undefined
  temperatureFrom?: string | undefined
  temperatureName?: string | undefined
  still?: boolean | undefined
}

/** What was typed as the record has it. @throws VisitRefusal that names the field */
export function typedLine(
  { evidence, current }: Progress,
  typed: TypedReading,
  thermometers: readonly Instrument[],
): TypedLine {
  const value = readTypedNumber(typed.value)
  if (!value.ok) throw new VisitRefusal('Type the reading as a number.', { because: 'input', code: 'invalid' })
  refuseOtherScale(evidence, value.value)
  refuseThousandfold(evidence, current, value.value)
  const shown = readTypedNumber(typed.shown ?? '')
  const also = { ...(shown.ok ? { shown: shown.value } : {}), ...(typed.still ? { still: true } : {}) }
  const text = (typed.temperature ?? '').trim()
  if (text === '') {
    const assumed = current && assumedTemperature(evidence, current)
    if (!assumed) {
      const message = 'Type the temperature of the standard.'
      throw new VisitRefusal(message, { because: 'input', code: 'invalid', fields: { temperature: message } })
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

/** A temperature as it was typed at a step, degC. @throws VisitRefusal that names the field */
export function temperatureBeside({ evidence, current }: Pick<Progress, 'evidence' | 'current'>, text: string): number {
  const temperature = readTypedTemperature(text)
  if (!temperature.ok) {
    const message = 'Type the temperature as a number.'
    throw new VisitRefusal(message, { because: 'input', code: 'invalid', fields: { temperature: message } })
  }
  if (!saysItsUnit(text) && typedInFahrenheit(evidence, current, temperature.value)) {
    const message = looksLikeFahrenheit(text)
    throw new VisitRefusal(message, {
      because: 'input',
      code: 'fahrenheit',
      detail: 'Nothing was recorded.',
      fields: { temperature: message },
    })
  }
  return temperature.value
}

function sourceOf(
  { temperatureFrom: from, temperatureName: name = '' }: TypedReading,
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

/** One scale of salt water typed for the other is named at once. @throws VisitRefusal */
function refuseOtherScale({ setup, model }: Progress['evidence'], value: number): void {
  // Of the channel that is typed: a device may have a cell and a pH input.
  const { unit } = model.shownScale(setup.device)
  const scale = SEA_SCALES[unit]
  const other = scale ? findOtherSeaScale(scale, value, setup.processValue) : null
  if (!other) return
  const message = `${value} looks like a ${other}; this display shows ${model.quantity(setup.device).toLowerCase()}.`
  throw new VisitRefusal(message, {
    because: 'input',
    code: 'unit-slip',
    detail: 'Nothing was recorded.',
    fields: { value: message },
  })
}

/** Microsiemens typed for millisiemens, or the other way round, by what this water or this standard is. @throws VisitRefusal */
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
  throw new VisitRefusal(message, {
    because: 'input',
    code: 'unit-slip',
    detail: 'Nothing was recorded.',
    fields: { value: message },
  })
}
