import type { FieldSpec } from '@frustum/core'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { useSetUpMutation } from '../../store/api.ts'
import { operatorChosen } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppDispatch } from '../../store/store.ts'
import { FormFields } from '../bench/FormFields.tsx'
import { useTypedForm } from '../bench/useTypedForm.ts'

const FIELDS: readonly FieldSpec[] = [
  { key: 'name', label: 'Name of the site', kind: 'text' },
  { key: 'person', label: 'Your name', kind: 'text' },
]

/** The site's name and yours; the clock is that of this browser. */
export function NewSite() {
  const { form, draft } = useTypedForm(FIELDS, 'new-site')
  const [setUp, { isLoading }] = useSetUpMutation()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const { timeZone } = Intl.DateTimeFormat().resolvedOptions()
  const submit = form.handleSubmit(async ({ name, person }) => {
    const who = String(person).trim()
    const answer = await setUp({ name: String(name), person: who, timeZone: timeZone || 'UTC' })
    if (answer.data) {
      draft.clear()
      dispatch(operatorChosen(who))
      void navigate('/rig/add', { replace: true })
      return
    }
    const problem = problemOf(answer.error)
    for (const [key, message] of Object.entries(problem.fields ?? {})) form.setError(key, { message })
    if (!problem.fields) toast.error(problem.message, { description: problem.hint })
  })
  return (
    <form
      onSubmit={(e) => void submit(e)}
      onChange={() => draft.keep(form.getValues())}
      noValidate
      aria-label="Your site"
      className="mx-auto w-full max-w-3xl px-5 py-8"
    >
      <h1 className="text-2xl">Your site</h1>
      <p className="pt-1 pb-5 soft">
        The names stand on records and prints. Times are those of {timeZone.replaceAll('_', ' ')}.
      </p>
      <FormFields fields={FIELDS} form={form} />
      <button type="submit" className="slant slant-strong mt-2 min-h-14 px-9 text-xl" disabled={isLoading}>
        On to the first sensor
      </button>
    </form>
  )
}
