import type { ProblemView } from '@frustum/contract'
import { yupResolver } from '@hookform/resolvers/yup'
import { type Resolver, useForm } from 'react-hook-form'
import { toast } from 'sonner'
import type { AnyObjectSchema } from 'yup'
import { problemOf } from '../../store/request.ts'

/** A form for passwords and PINs: checked as the server checks, and kept nowhere, unlike all else that is typed. */
export function useSecretForm<Values extends Record<string, string>>(schema: AnyObjectSchema, empty: Values) {
  const form = useForm<Values>({
    resolver: yupResolver(schema) as never as Resolver<Values>,
    defaultValues: empty as never,
    reValidateMode: 'onChange',
  })
  /** Tells what was refused, at its field where it has one. @returns whether it was taken */
  const told = (answer: { error?: unknown }, said?: string): boolean => {
    if (!answer.error) {
      form.reset(empty)
      if (said) toast.success(said)
      return true
    }
    const problem: ProblemView = problemOf(answer.error)
    const known = Object.entries(problem.fields ?? {}).filter(([key]) => key in empty)
    for (const [key, message] of known) form.setError(key as never, { message })
    if (known.length === 0) {
      form.setError('root', { message: [problem.message, problem.hint].filter(Boolean).join(' ') })
    }
    return false
  }
  const errorOf = (key: keyof Values & string): string | undefined =>
    form.formState.errors[key]?.message as string | undefined
  return { form, told, errorOf, refused: form.formState.errors.root?.message }
}
