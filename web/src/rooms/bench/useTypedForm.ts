import { formSchema } from '@frustum/contract'
import type { FieldSpec } from '@frustum/core'
import { yupResolver } from '@hookform/resolvers/yup'
import { type Resolver, useForm } from 'react-hook-form'
import { useAppSelector } from '../../store/store.ts'
import { usualText } from './FormFields.tsx'
import type { FormTexts } from './formTexts.ts'
import { inUnit, takesDegrees } from './TemperatureUnit.tsx'
import { useDraft } from './useDraft.ts'

/** What stands in the fields before anything is typed. */
export const defaultTexts = (fields: readonly FieldSpec[]): FormTexts =>
  Object.fromEntries(fields.map((f) => [f.key, f.kind === 'tick' ? false : usualText(f)]))

/** What was typed, temperatures with the unit next to their field. */
export const withUnits = (fields: readonly FieldSpec[], typed: FormTexts, fahrenheit: boolean): FormTexts => ({
  ...typed,
  ...Object.fromEntries(
    fields.filter(takesDegrees).map((f) => [f.key, inUnit(String(typed[f.key] ?? ''), fahrenheit) ?? '']),
  ),
})

/**
 * A form of fields that are typed as text. What was typed stays in this browser under the name of the draft until the
 * caller clears it: through a reload, a lost network and a server that was started again.
 */
export function useTypedForm(fields: readonly FieldSpec[], name: string, start: FormTexts = {}) {
  const draft = useDraft(name)
  const { fahrenheit } = useAppSelector((s) => s.person)
  const resolve = yupResolver(formSchema(fields)) as never as Resolver<FormTexts>
  const form = useForm<FormTexts>({
    resolver: ((typed, context, options) =>
      resolve(withUnits(fields, typed, fahrenheit), context, options)) as Resolver<FormTexts>,
    defaultValues: {
      ...defaultTexts(fields),
      ...start,
      ...draft.read(),
    },
    mode: 'onTouched',
    reValidateMode: 'onChange',
  })
  return { form, draft }
}
