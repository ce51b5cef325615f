import { askedFields } from '@frustum/contract'
import type { FieldSpec } from '@frustum/core'
import { type FieldError, get, type UseFormReturn } from 'react-hook-form'
import { asRead, celsius, fixed, text } from '../../components/format.ts'
import { Field } from './Field.tsx'
import type { FormTexts } from './formTexts.ts'
import { InstrumentField } from './InstrumentField.tsx'
import { PhotoField } from './PhotoField.tsx'
import { TemperatureUnit, takesDegrees } from './TemperatureUnit.tsx'

interface FormFieldsProps {
  fields: readonly FieldSpec[]
  form: UseFormReturn<FormTexts>
  /** A linked device can fill a field in: sets the simulator where there is one, and reads what is shown. */
  onFill?: ((field: FieldSpec) => void) | undefined
  /** Whether short texts and choices stand beside each other, too: where much is looked over rather than typed. */
  close?: boolean
}

/** What stands in a field at first: a number with the field's decimals. */
export const usualText = ({ usual = '', decimals = 2 }: FieldSpec) =>
  typeof usual === 'number' ? usual.toFixed(decimals) : usual

const isNumber = (...fields: (FieldSpec | undefined)[]) => fields.every((f) => f?.kind === 'number')

/** The fields of a form step, or of what is asked before a visit: those of one row beside each other. */
export function FormFields({ fields, form, onFill, close = false }: FormFieldsProps) {
  const conditions = [...new Set(fields.flatMap((f) => f.when?.key ?? []))]
  const watched = form.watch(conditions)
  const values = Object.fromEntries(conditions.map((key, i) => [key, watched[i]]))
  const rows = askedFields(fields, values).reduce<FieldSpec[][]>((list, field) => {
    const last = list.at(-1)
    // A row of a table, or plain numbers, stand beside each other.
    const beside =
      last &&
      last[0]?.row === field.row &&
      (field.row !== undefined || isNumber(field, last[0]) || (close && !field.lines && !last[0]?.lines))
    if (beside) last.push(field)
    else list.push([field])
    return list
  }, [])
  return (
    <div className="space-y-3">
      {rows.map((row) => (
        <div key={row[0]?.key} className="flex items-start gap-x-6 max-sm:flex-wrap">
          {row[0]?.row && (
            <p className={`${row.length > 1 ? 'w-28' : 'w-44'} shrink-0 pt-8 font-bold max-sm:w-full max-sm:pt-0`}>
              {text(row[0].row)}
            </p>
          )}
          <div className="flex max-w-full min-w-0 flex-wrap items-start gap-x-6">
            {row.map((field) => (
              <OneField key={field.key} field={field} form={form} row={row[0]?.row && text(row[0].row)} />
            ))}
            {onFill && row[0]?.live && (
              <button type="button" className="slant mt-6" onClick={() => onFill(row[0] as FieldSpec)}>
                Read display
              </button>
            )}
          </div>
        </div>
      ))}
    </div>
  )
}

/** More than anybody types is no limit worth saying. */
const LIMITLESS = 1e6

/** Within what a number must lie, as it is read. */
function limitsOf({
  kind,
  low,
  high,
  unit = '',
  usualTemperature,
  isTemperatureDifference,
}: FieldSpec): string | undefined {
  if (kind !== 'number' || low === undefined || high === undefined || high >= LIMITLESS) return undefined
  if (usualTemperature !== undefined) return `${celsius(low)} to ${celsius(high)}`
  if (isTemperatureDifference) {
    const { unit: read, decimals, width } = asRead({ unit, decimals: 1 })
    return `${fixed(width(low), decimals)} to ${fixed(width(high), decimals)} ${read}`
  }
  // What is typed off a display stays in its unit, whoever reads it.
  return `${low} to ${high}${unit && ` ${unit}`}`
}

interface OneFieldProps {
  field: FieldSpec
  form: UseFormReturn<FormTexts>
  row?: string | undefined
}

function OneField({ field, form, row }: OneFieldProps) {
  const isTemperature = takesDegrees(field)
  const isSecret = field.kind === 'secret'
  const error = (get(form.formState.errors, field.key) as FieldError | undefined)?.message
  // One of its choices holds in any case.
  const hasUsual = field.kind === 'choice' && field.usual !== undefined
  const expected = field.expected === undefined ? '' : `, expected ${fixed(field.expected, field.decimals ?? 2)}`
  const label = `${field.label}${expected}${field.optional && !hasUsual ? ' (optional)' : ''}`
  switch (field.kind) {
    case 'choice':
      return (
        <label className="block max-w-full pb-6">
          <span className="block font-bold">{label}</span>
          <select
            className={`min-h-12 w-96 max-w-full border bg-base-100 px-3 text-lg ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
            aria-invalid={error !== undefined}
            {...form.register(field.key)}
          >
            {!(hasUsual && field.optional) && <option value="">{field.optional ? 'Not said' : 'Choose'}</option>}
            {field.choices?.map((c) => (
              <option key={c.value} value={c.value}>
                {c.label}
              </option>
            ))}
          </select>
          <span role="alert" className="block text-sm text-error">
            {error ?? ''}
          </span>
        </label>
      )
    case 'instrument':
      return <InstrumentField field={field} form={form} label={label} error={error} />
    case 'date':
      return (
        <Field
          label={label}
          unit=""
          error={error}
          type="date"
          style={{ width: '12rem' }}
          hint={field.hint && text(field.hint)}
          {...form.register(field.key)}
        />
      )
    case 'photo':
      return <PhotoField field={field} form={form} />
    case 'tick':
      return (
        <label className="flex min-h-14 items-center gap-4 text-lg">
          <input type="checkbox" className="checkbox border-[color:var(--line)]" {...form.register(field.key)} />
          {label}
        </label>
      )
    default: {
      const input = (
        <Field
          label={label}
          row={row}
          unit={isTemperature ? '' : (field.unit ?? '')}
          error={error}
          hint={field.hint && text(field.hint)}
          limits={limitsOf(field)}
          wide={field.kind === 'text' || isSecret}
          {...(isSecret ? { type: 'password', autoComplete: 'off' } : {})}
          lines={field.lines}
          suggestions={field.suggestions}
          {...form.register(field.key)}
        />
      )
      if (!isTemperature) return input
      return (
        <div className="flex items-start gap-1">
          {input}
          <TemperatureUnit />
        </div>
      )
    }
  }
}
