import type { FieldSpec } from '@frustum/core'
import { saysItsUnit } from '@frustum/core'
import { temperatureUnitChosen } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'
import type { FormTexts } from './formTexts.ts'

/** The unit beside a temperature that is typed; a press takes the other one, for all such fields. */
export function TemperatureUnit() {
  const { fahrenheit } = useAppSelector((s) => s.person)
  const dispatch = useAppDispatch()
  return (
    <button
      type="button"
      className="mt-6 -ml-14 min-h-12 min-w-12 underline underline-offset-4"
      aria-label={fahrenheit ? 'In °F; press for °C' : 'In °C; press for °F'}
      onClick={() => dispatch(temperatureUnitChosen(!fahrenheit))}
    >
      {fahrenheit ? '°F' : '°C'}
    </button>
  )
}

/** Whether a field takes a temperature, or a difference of temperatures, in °C or °F. */
export const takesDegrees = ({ usualTemperature, isTemperatureDifference }: FieldSpec) =>
  usualTemperature !== undefined || isTemperatureDifference === true

/** Stored temperatures with their unit, so that they keep it when the unit next to the field is switched. */
export const startTexts = (fields: readonly FieldSpec[], values: FormTexts): FormTexts =>
  Object.fromEntries(
    Object.entries(values).map(([key, value]) => [
      key,
      value && fields.some((f) => f.key === key && takesDegrees(f)) ? `${String(value)} C` : value,
    ]),
  )

/** What was typed, with the unit that stands beside the field unless one was typed. */
export const inUnit = (text: string | undefined, fahrenheit: boolean) =>
  fahrenheit && text?.trim() && !saysItsUnit(text) ? `${text} F` : text
