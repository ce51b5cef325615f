import type { VisitActionName } from '@frustum/contract/endpoints'
import { useEffect } from 'react'
import { toast } from 'sonner'
import { problemOf, useActMutation, useMeQuery } from '../../store/api.ts'
import { now } from '../../store/clock.ts'
import { put, sent } from '../../store/outbox.ts'
import { actorOf, newId } from '../../store/person.ts'
import { useAppDispatch, useAppSelector } from '../../store/store.ts'
import type { Acting, VisitAction, VisitActionBody } from '../../store/visitAction.ts'

/** Actions that mean the same when they arrive later. A reading is of its moment and is not kept for later. */
const MAY_WAIT: readonly VisitAction['action'][] = [
  'done',
  'skip',
  'redo',
  'wait',
  'typed',
  'fill',
  'decide',
  'abandon',
]

const unreachable = (error: unknown) => (error as { status?: unknown } | undefined)?.status === 'FETCH_ERROR'

/** Does an action on a visit; a refusal is told in the server's words, and returned. Silence puts it into the outbox. */
export function useVisitActions(id: string) {
  const [act, { isLoading }] = useActMutation()
  const dispatch = useAppDispatch()
  const actor = useAppSelector(actorOf)
  const waiting = useAppSelector((s) => s.outbox.waiting.filter((w) => w.id === id).length)
  const run = async <A extends VisitActionName>(action: A, body: VisitActionBody<A>) => {
    const request = { id, action, body, ...actor, actionId: newId(), madeAt: now() } as VisitAction & Acting
    const answer = await act(request)
    if (!answer.error) return null
    if (unreachable(answer.error) && MAY_WAIT.includes(action)) {
      dispatch(put(request))
      return null
    }
    const problem = problemOf(answer.error)
    if (!problem.fields) {
      toast.error(problem.message, { description: [problem.detail, problem.hint].filter(Boolean).join(' ') })
    }
    return problem
  }
  return { run, busy: isLoading || waiting > 0, waiting, actor }
}

const TRY_EVERY_MS = 1500

/** Sends what waits in the outbox, oldest first, until it is empty. Mounted once, in the shell. */
export function useOutbox(): number {
  const waiting = useAppSelector((s) => s.outbox.waiting)
  const { operator } = useAppSelector(actorOf)
  const signsIn = useMeQuery().data?.signIn ?? false
  const dispatch = useAppDispatch()
  const [act] = useActMutation()
  // A record names who is signed in: what somebody else did waits until they are here again.
  const next = waiting.find((w) => !signsIn || w.operator === operator)
  useEffect(() => {
    if (!next) return
    let stopped = false
    let timer: ReturnType<typeof setTimeout> | undefined
    const attempt = async () => {
      const answer = await act(next)
      if (stopped) return
      if (answer.error && unreachable(answer.error)) {
        timer = setTimeout(() => void attempt(), TRY_EVERY_MS)
        return
      }
      if (answer.error) {
        const problem = problemOf(answer.error)
        toast.error(`A step that waited was refused. ${problem.message}`, {
          description: [problem.detail, problem.hint].filter(Boolean).join(' '),
        })
      } else toast.success('What waited for the network is recorded.')
      dispatch(sent(next.actionId))
    }
    timer = setTimeout(() => void attempt(), TRY_EVERY_MS)
    return () => {
      stopped = true
      clearTimeout(timer)
    }
  }, [next, act, dispatch])
  return waiting.length
}
