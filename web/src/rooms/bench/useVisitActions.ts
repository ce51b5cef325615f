import { toast } from 'sonner'
import { askerOf, problemOf, useActMutation, type VisitAction } from '../../store/api.ts'
import { useAppSelector } from '../../store/store.ts'

/** Does an action on a visit; a refusal is told in the server's words, and returned. */
export function useVisitActions(id: string) {
  const [act, { isLoading }] = useActMutation()
  const asker = useAppSelector(askerOf)
  const run = async (action: VisitAction['action'], body?: Record<string, unknown>) => {
    const answer = await act({ id, action, ...(body ? { body } : {}), ...asker })
    if (!answer.error) return null
    const problem = problemOf(answer.error)
    if (!problem.fields) {
      toast.error(problem.message, { description: [problem.detail, problem.hint].filter(Boolean).join(' ') })
    }
    return problem
  }
  return { run, busy: isLoading, asker }
}
