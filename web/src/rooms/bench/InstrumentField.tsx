import type { InstrumentView } from '@frustum/contract'
import type { FieldSpec } from '@frustum/core'
import { useId, useState } from 'react'
import type { UseFormReturn } from 'react-hook-form'
import { ago } from '../../components/format.ts'
import { useInstrumentsQuery } from '../../store/api.ts'
import type { FormTexts } from './formTexts.ts'
import { NewInstrument } from './NewInstrument.tsx'

interface InstrumentFieldProps {
  field: FieldSpec
  form: UseFormReturn<FormTexts>
  label: string
  error: string | undefined
}

/** With what it was read: chosen from what the site has, or added here by its name. */
export function InstrumentField({ field, form, label, error }: InstrumentFieldProps) {
  const { data: known = [] } = useInstrumentsQuery()
  const [adding, setAdding] = useState(false)
  const kinds = field.instruments ?? []
  const fitting = known.filter((i) => kinds.includes(i.kind))
  const choose = (id: string, from: readonly InstrumentView[]) => {
    form.setValue(field.key, id, { shouldDirty: true })
    const chosen = from.find((i) => String(i.id) === id)
    const { key, unit } = field.statesUncertainty ?? {}
    if (key && chosen?.uncertainty != null && chosen.unit === unit) form.setValue(key, String(chosen.uncertainty))
  }
  const id = useId()
  const value = String(form.watch(field.key) ?? '')
  return (
    <div className="w-72 pb-6 max-sm:w-full">
      <label htmlFor={id} className="block font-bold">
        {label}
      </label>
      <select
        id={id}
        className={`min-h-12 w-full border bg-base-100 px-3 text-lg ${error ? 'border-error' : 'border-[color:var(--line)]'}`}
        value={value}
        aria-invalid={error !== undefined}
        onChange={(e) => (e.target.value === 'add' ? setAdding(true) : choose(e.target.value, known))}
      >
        <option value="">Not named</option>
        {fitting.map((i) => (
          <option key={i.id} value={String(i.id)}>
            {[i.name, i.serial].filter(Boolean).join(', ')}
            {i.calibratedAt === null ? '' : ` (calibrated ${ago(i.calibratedAt)})`}
          </option>
        ))}
        <option value="add">Add one by its name</option>
      </select>
      <span role="alert" className="block text-sm text-error">
        {error ?? ''}
      </span>
      {adding && (
        <NewInstrument
          kinds={kinds}
          units={field.statesUncertainty ? [field.statesUncertainty.unit] : []}
          onClose={() => setAdding(false)}
          onAdded={(list, added) => {
            setAdding(false)
            choose(String(added.id), list)
          }}
        />
      )}
    </div>
  )
}
