import { type TypedReadingFields, typedReadingFields, type VisitLive, type VisitView } from '@frustum/contract'
import { yupResolver } from '@hookform/resolvers/yup'
import { useForm } from 'react-hook-form'
import { useNow } from '../../store/clock.ts'
import { Field } from './Field.tsx'

interface TypedReadingsProps {
  visit: VisitView
  live: VisitLive
  /** Resolves to the problem's fields, or null when it was kept. */
  onType: (fields: TypedReadingFields) => Promise<Record<string, string> | null>
}

/** For a device without a link: asks for what it shows, at sensible times, and judges from that. */
export function TypedReadings({ visit, live, onType }: TypedReadingsProps) {
  const { what, unit } = visit.typing
  const name = what === 'pH' ? 'pH' : what === 'potential' ? 'Millivolts' : what[0]?.toUpperCase() + what.slice(1)
  const form = useForm<TypedReadingFields>({
    resolver: yupResolver(typedReadingFields(visit.typing)),
    defaultValues: { value: '', temperature: '' },
    mode: 'onSubmit',
    reValidateMode: 'onChange',
  })
  const { errors, isSubmitting } = form.formState
  const submit = form.handleSubmit(async (fields) => {
    const problems = await onType(fields)
    if (problems) {
      for (const [field, message] of Object.entries(problems)) {
        if (field === 'value' || field === 'temperature') form.setError(field, { message })
      }
      return
    }
    // The temperature hardly changes between two looks; the value is the one to read anew.
    form.setValue('value', '')
    form.setFocus('value')
  })
  return (
    <form onSubmit={(e) => void submit(e)} noValidate className="flex flex-wrap items-start gap-x-6 gap-y-3">
      <Field label={`${name} shown`} unit={unit} error={errors.value?.message} {...form.register('value')} />
      <Field
        label="Temperature shown"
        unit="°C"
        error={errors.temperature?.message}
        {...form.register('temperature')}
      />
      <div className="pt-6">
        <button type="submit" className="slant slant-strong" disabled={isSubmitting}>
          Add reading
        </button>
        <p className="min-h-6 pt-2 soft">
          <NextReading live={live} />
        </p>
      </div>
    </form>
  )
}

function NextReading({ live }: { live: VisitLive }) {
  const now = useNow(1000)
  const { opinion, trace } = live
  if (!opinion) return 'Type the first reading as soon as it is in.'
  if (opinion.state === 'stable') return 'It is stable: take it.'
  const wait = Math.round(opinion.nextReadingIn - (now - live.at) / 1000)
  return wait > 0 && trace.length > 0 ? `Next reading in ${wait} s.` : 'Type the next reading now.'
}
