import {
  type FieldSpec,
  kindOf,
  readOwnInputs,
  readTypedNumber,
  readTypedTemperature,
  readTypedTemperatureDifference,
} from '@frustum/core'
import { boolean, mixed, object, type Schema, type StringSchema, string } from 'yup'
import { dayAt, isCalendarDay } from './calendarDay.ts'
import { decimalMark } from './decimalMark.ts'
import { type TypedBounds, typedNumber, typedTemperature } from './typedNumber.ts'

/** What a form asks for, as a schema; numbers are typed text. */
export const formSchema = (fields: readonly FieldSpec[]) =>
  object(
    Object.fromEntries(
      fields.map((field) => {
        const { when } = field
        const schema = fieldSchema(field)
        return [field.key, when ? mixed().when(when.key, ([v]) => (isAsked(when, v) ? schema : mixed())) : schema]
      }),
    ),
  )

const isAsked = ({ is }: NonNullable<FieldSpec['when']>, value: unknown) => is.some((v) => v === value)

/** Fields that are asked for, where some depend on what others hold. */
export const askedFields = (fields: readonly FieldSpec[], values: Readonly<Record<string, unknown>>): FieldSpec[] =>
  fields.filter(({ when }) => !when || isAsked(when, values[when.key]))

/** How the text of a number field is read. */
function readerOf({ usualTemperature, isTemperatureDifference }: FieldSpec): typeof readTypedNumber {
  if (usualTemperature !== undefined) return readTypedTemperature
  return isTemperatureDifference ? readTypedTemperatureDifference : readTypedNumber
}

function fieldSchema(field: FieldSpec): Schema {
  switch (field.kind) {
    case 'number': {
      const bounds = {
        what: field.label.toLowerCase().replace(/, ±$/, ''),
        low: field.low ?? -1e9,
        high: field.high ?? 1e9,
        unit: field.unit ?? '',
        decimals: field.decimals ?? 2,
      }
      const { usualTemperature: usual, optional } = field
      return usual === undefined
        ? typedNumber(bounds, optional, readerOf(field))
        : typedTemperature(bounds, usual, optional)
    }
    case 'choice': {
      const values = (field.choices ?? []).map((c) => c.value)
      return field.optional
        ? string().oneOf([...values, ''], 'Choose one of the list.')
        : string().oneOf(values, 'Choose one.').required('Choose one.')
    }
    case 'tick':
      return field.must ? boolean().oneOf([true], 'Tick it when it is so.').required() : boolean()
    case 'date':
      return pastDay(field.optional === true)
    // By its SHA-256, under which it was kept before.
    case 'photo':
      return string().matches(/^([0-9a-f]{64})?$/, 'Choose the photo once more.')
    default: {
      const text = inputs(field, string().max(500, 'Keep it under 500 characters.'))
      const ask = `Type the ${field.label.toLowerCase()}.`
      return field.optional ? text : text.test('not-blank', ask, (v) => (v ?? '').trim() !== '').required(ask)
    }
  }
}

/** A day that has been, as YYYY-MM-DD; where it is today already, tomorrow is not yet wrong elsewhere. */
const pastDay = (optional: boolean) =>
  string().test('day', 'Choose today or an earlier day.', (typed = '') => {
    if (typed === '') return optional
    // Where it is latest: the site's own today is asked for where it is stored.
    return isCalendarDay(typed) && typed <= dayAt(Date.now(), 'Etc/GMT-14')
  })

/** Inputs of a simulator, each of which must be one. */
function inputs({ inputsOf }: FieldSpec, text: StringSchema): StringSchema {
  const simulator = inputsOf && kindOf(inputsOf).simulator
  if (!simulator) return text
  return text.test('inputs', 'These inputs cannot be read.', function (typed) {
    const read = readOwnInputs(typed ?? '', simulator)
    return read.ok || this.createError({ message: read.problem })
  })
}

/** Typed text of a valid form as values: numbers where numbers are asked for. */
export function formValues(
  fields: readonly FieldSpec[],
  typed: Readonly<Record<string, unknown>>,
): Record<string, number | string | boolean> {
  const values: Record<string, number | string | boolean> = {}
  for (const field of askedFields(fields, typed)) {
    const { key, kind } = field
    const value = typed[key]
    if (kind === 'number') {
      const read = readerOf(field)(String(value ?? ''), decimalMark())
      if (read.ok) values[key] = read.value
    } else if (typeof value === 'boolean') values[key] = value
    else if (typeof value === 'string' && value.trim() !== '') values[key] = value.trim()
  }
  return values
}

/** What a display without a line shows after numbers were keyed in; the reason only once it was asked for. */
export const shownAfterFields = (bounds: TypedBounds) =>
  object({ shownAfter: typedNumber(bounds), why: string().trim().max(500, 'Keep the note under 500 characters.') })
