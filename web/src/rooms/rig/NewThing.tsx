import type { ThingView } from '@frustum/contract'
import {
  CONSUMABLE_FIELDS,
  type FieldSpec,
  kindOf,
  newStandardFields,
  PERSON_FIELDS,
  PLACE_FIELDS,
  SENSOR_FIELDS,
  sensorKinds,
} from '@frustum/core'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { Fetching } from '../../components/Problem.tsx'
import { useAddThingMutation, useRigQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { FormFields } from '../bench/FormFields.tsx'
import type { FormTexts } from '../bench/formTexts.ts'
import { useTypedForm } from '../bench/useTypedForm.ts'

const NEW: Readonly<Record<string, { title: string; fields: readonly FieldSpec[] }>> = {
  place: { title: 'A new place', fields: PLACE_FIELDS },
  person: { title: 'Somebody new', fields: PERSON_FIELDS },
  sensor: { title: 'A spare in store', fields: SENSOR_FIELDS },
  consumable: { title: 'Something with a date of its own', fields: CONSUMABLE_FIELDS },
  standard: { title: 'A standard of your own', fields: newStandardFields() },
}

/** A place, a person, a spare or a consumable, new. */
export function NewThing() {
  const { subject = '' } = useParams()
  const { data: rig, error, refetch } = useRigQuery()
  const kind = NEW[subject]
  if (!rig || !kind) return <Fetching what="the rig" error={error} onRetry={refetch} />
  const extra: FieldSpec[] =
    subject === 'sensor'
      ? [
          {
            key: 'kind',
            label: 'It measures',
            kind: 'choice',
            choices: sensorKinds().map((value) => ({ value, label: kindOf(value).name })),
          },
        ]
      : subject === 'consumable'
        ? [
            {
              key: 'placeId',
              label: 'Place',
              kind: 'choice',
              choices: rig.places.filter((p) => !p.archived).map((p) => ({ value: String(p.id), label: p.name })),
            },
          ]
        : []
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <Link to="/rig" className="inline-flex min-h-11 items-center underline underline-offset-4">
        Rig
      </Link>
      <h1 className="pb-4 text-2xl">{kind.title}</h1>
      <NewForm key={subject} subject={subject} title={kind.title} fields={[...extra, ...kind.fields]} />
    </div>
  )
}

interface NewFormProps {
  subject: string
  title: string
  fields: readonly FieldSpec[]
  /** What is known already. */
  begin?: FormTexts
  /** Where the form is part of another task, that task goes on here. */
  onAdded?: (added: ThingView) => void
}

/** The form of something new; alone on its page it leads on to its list. */
export function NewForm({ subject, title, fields, begin = {}, onAdded }: NewFormProps) {
  const { form, draft } = useTypedForm(fields, `new:${subject}:${begin.kind ?? ''}`, begin)
  const [add, { isLoading }] = useAddThingMutation()
  const { operator } = useAppSelector(actorOf)
  const navigate = useNavigate()
  const save = form.handleSubmit(async ({ kind, placeId, ...values }) => {
    const answer = await add({
      subject,
      operator,
      values: subject === 'standard' ? { ...values, kind: kind ?? '' } : values,
      ...(kind && subject !== 'standard' ? { kind: String(kind) } : {}),
      ...(placeId ? { placeId: Number(placeId) } : {}),
    })
    if (answer.data) {
      draft.clear()
      if (onAdded) return onAdded(answer.data)
      // A standard is entered on the way to a bottle of it.
      void navigate(subject === 'standard' ? '/shelf' : '/rig', { replace: true })
      return
    }
    const problem = problemOf(answer.error)
    for (const [key, message] of Object.entries(problem.fields ?? {})) form.setError(key, { message })
    toast.error(problem.message, { description: problem.hint })
  })
  return (
    <form onSubmit={(e) => void save(e)} onChange={() => draft.keep(form.getValues())} noValidate aria-label={title}>
      <FormFields fields={fields} form={form} close />
      <button type="submit" className="slant slant-strong mt-2 min-h-14 px-9 text-xl" disabled={isLoading}>
        Save
      </button>
    </form>
  )
}
