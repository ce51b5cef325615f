import type { InstrumentView } from '@frustum/contract'
import { type FieldSpec, INSTRUMENT_KINDS, type InstrumentKind, readTypedNumber } from '@frustum/core'
import { useId, useState } from 'react'
import type { UseFormReturn } from 'react-hook-form'
import { ago } from '../../components/format.ts'
import { problemOf, useAddInstrumentMutation, useInstrumentsQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from './Field.tsx'
import type { FormTexts } from './formTexts.ts'

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
          unit={field.statesUncertainty?.unit ?? ''}
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

interface NewInstrumentProps {
  kinds: readonly InstrumentKind[]
  /** In which its uncertainty is stated; empty where none is asked. */
  unit: string
  onClose: () => void
  onAdded: (list: readonly InstrumentView[], added: InstrumentView) => void
}

/** Not a form of its own: it stands within the one of the step. */
function NewInstrument({ kinds, unit, onClose, onAdded }: NewInstrumentProps) {
  const { operator } = useAppSelector(actorOf)
  const [add, { isLoading }] = useAddInstrumentMutation()
  const [kind, setKind] = useState<InstrumentKind>(kinds[0] ?? 'hand-meter')
  const [texts, setTexts] = useState({ name: '', serial: '', calibratedOn: '', uncertainty: '' })
  const [problems, setProblems] = useState<Record<string, string>>({})
  const type = (key: keyof typeof texts) => (e: { target: { value: string } }) =>
    setTexts((before) => ({ ...before, [key]: e.target.value }))
  const save = async () => {
    const width = readTypedNumber(texts.uncertainty)
    if (texts.uncertainty.trim() !== '' && !width.ok) {
      setProblems({ uncertainty: 'Type it as a number, such as 0.02.' })
      return
    }
    const answer = await add({
      operator,
      kind,
      name: texts.name.trim(),
      serial: texts.serial.trim(),
      ...(texts.calibratedOn ? { calibratedOn: texts.calibratedOn } : {}),
      ...(width.ok ? { uncertainty: width.value, unit } : {}),
    })
    if (answer.error) {
      const { fields, message } = problemOf(answer.error)
      setProblems(fields ?? { name: message })
      return
    }
    const added = answer.data.filter((i) => i.name === texts.name.trim()).at(-1)
    if (added) onAdded(answer.data, added)
  }
  return (
    <fieldset className="mt-2 space-y-1 border-l-4 border-base-300 pl-4">
      <legend className="sr-only">A new instrument</legend>
      {kinds.length > 1 && (
        <label className="block pb-2">
          <span className="block font-bold">What it is</span>
          <select
            className="h-12 w-full border border-[color:var(--line)] bg-base-100 px-3"
            value={kind}
            onChange={(e) => setKind(e.target.value as InstrumentKind)}
          >
            {kinds.map((k) => (
              <option key={k} value={k}>
                {INSTRUMENT_KINDS[k].label}
              </option>
            ))}
          </select>
        </label>
      )}
      <Field label="Name" unit="" wide error={problems.name} value={texts.name} onChange={type('name')} />
      <Field
        label="Serial number (optional)"
        unit=""
        wide
        error={problems.serial}
        value={texts.serial}
        onChange={type('serial')}
      />
      <Field
        label="Calibrated on (optional)"
        unit=""
        wide
        type="date"
        error={problems.calibratedOn}
        value={texts.calibratedOn}
        onChange={type('calibratedOn')}
      />
      {unit !== '' && (
        <Field
          label="Good to ± (optional)"
          unit={unit}
          error={problems.uncertainty}
          value={texts.uncertainty}
          onChange={type('uncertainty')}
        />
      )}
      <div className="flex flex-wrap gap-3">
        <button type="button" className="slant" disabled={isLoading} onClick={() => void save()}>
          Add it
        </button>
        <button type="button" className="slant slant-plain" onClick={onClose}>
          Back
        </button>
      </div>
    </fieldset>
  )
}
