import { type Keeping, keepingBody } from '@frustum/contract'
import { yupResolver } from '@hookform/resolvers/yup'
import { type Resolver, useForm } from 'react-hook-form'
import { toast } from 'sonner'
import { useSetKeepingMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'

/** An empty field: for ever. */
const days = (typed: unknown) => (typed === '' || typed === null ? null : Number(typed))

/** How long readings between visits are kept, each and by the hour. */
export function KeepingOfSite({ keeping }: { keeping: Keeping }) {
  const [set, { isLoading }] = useSetKeepingMutation()
  const { operator } = useAppSelector(actorOf)
  const form = useForm<Keeping>({
    resolver: yupResolver(keepingBody.omit(['operator'])) as never as Resolver<Keeping>,
    defaultValues: keeping,
  })
  const { errors } = form.formState
  const submit = form.handleSubmit(async (typed) => {
    const { error } = await set({ operator, ...typed })
    if (!error) {
      toast.success('Saved.')
      return
    }
    const { fields, message, hint } = problemOf(error)
    for (const [key, text] of Object.entries(fields ?? {})) form.setError(key as keyof Keeping, { message: text })
    if (!fields) toast.error(message, { description: hint })
  })
  const field = (key: keyof Keeping, label: string) => (
    <Field
      label={label}
      unit="days"
      inputMode="numeric"
      error={errors[key]?.message}
      {...form.register(key, { setValueAs: days })}
    />
  )
  return (
    <form
      noValidate
      aria-label="How long readings are kept"
      className="border-b border-base-300 py-5"
      onSubmit={(e) => void submit(e)}
    >
      <h2 className="text-lg font-bold">How long readings are kept</h2>
      <p className="max-w-prose pt-1 pb-3 text-pretty">
        Empty: for ever. What is older goes within minutes and cannot be brought back; records of visits and the lowest,
        mean and highest of each day stay for ever.
      </p>
      <div className="flex flex-wrap gap-x-6">
        {field('readingsDays', 'Each reading')}
        {field('hoursDays', 'By the hour')}
      </div>
      <button type="submit" className="slant mt-1" disabled={isLoading}>
        Save
      </button>
    </form>
  )
}
