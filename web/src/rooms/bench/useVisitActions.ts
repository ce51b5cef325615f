import type { VisitView } from '@frustum/contract'
import type { VisitActionName } from '@frustum/contract/endpoints'
import { useEffect, useMemo } from 'react'
import { toast } from 'sonner'
import { useActMutation, useMeQuery } from '../../store/api.ts'
import { now } from '../../store/clock.ts'
import { put, sent, type Waiting } from '../../store/outbox.ts'
import { actorOf, newId } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
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

/** Refusals that say nothing of the action itself: sign in, too slow, too early, too many. */
const TRY_AGAIN: readonly unknown[] = [401, 408, 425, 429]

/**
 * Whether an action was refused for good. Anything else may yet be taken: no answer, an answer that is none of ours, as
 * that of a proxy, or a server that has trouble of its own.
 */
export function isRefused(error: unknown): boolean {
  const { status } = error as { status?: unknown }
  return typeof status === 'number' && status >= 400 && status < 500 && !TRY_AGAIN.includes(status)
}

/** Does an action on a visit; a refusal is shown in the server's words, and returned. What gets no answer is queued. */
export function useVisitActions(id: string) {
  const [act, { isLoading }] = useActMutation()
  const dispatch = useAppDispatch()
  const actor = useAppSelector(actorOf)
  const queue = useAppSelector((s) => s.outbox.waiting)
  const waiting = useMemo(() => queue.filter((w) => w.id === id), [queue, id])
  const run = async <A extends VisitActionName>(action: A, body: VisitActionBody<A>) => {
    const request = { id, action, body, ...actor, actionId: newId(), madeAt: now() } as VisitAction & Acting
    const mayWait = MAY_WAIT.includes(action)
    // Behind what waits already: the server judges actions in the order in which they were done.
    if (waiting.length > 0 && mayWait) {
      dispatch(put(request))
      return null
    }
    const answer = await act(request)
    if (!answer.error) return null
    if (mayWait && !isRefused(answer.error)) {
      dispatch(put(request))
      return null
    }
    const problem = problemOf(answer.error)
    if (!problem.fields) {
      toast.error(problem.message, { description: [problem.detail, problem.hint].filter(Boolean).join(' ') })
    }
    return problem
  }
  return { run, busy: isLoading, waiting, actor }
}

/** The visit as it is once the queued actions are recorded, as far as that is known without the server. */
export function withQueued(visit: VisitView, waiting: readonly Waiting[]): VisitView {
  let shown = visit
  for (const { action, body } of waiting) {
    const { step, still } = body as { step: string; still?: boolean }
    const finishes = action === 'done' || action === 'skip' || action === 'fill' || (action === 'typed' && still)
    if (!finishes || step !== shown.current) continue
    const [next = null, ...ahead] = shown.ahead
    // What comes of the last step only the server knows.
    if (!next) break
    const statusOf = (key: string, before: VisitView['steps'][number]['status']) =>
      key === shown.current ? (action === 'skip' ? 'skipped' : 'done') : key === next.key ? 'now' : before
    shown = {
      ...shown,
      steps: shown.steps.map((s) => ({ ...s, status: statusOf(s.key, s.status) })),
      current: next.key,
      now: next,
      ahead,
      waiting: null,
      // What belongs to a step the server has not seen yet: its lot, and a temperature that would be assumed.
      lot: null,
      assumedTemperature: null,
      result: null,
    }
  }
  return shown
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
      if (answer.error && !isRefused(answer.error)) {
        timer = setTimeout(() => void attempt(), TRY_EVERY_MS)
        return
      }
      if (answer.error) {
        const problem = problemOf(answer.error)
        toast.error(`A queued step was refused. ${problem.message}`, {
          description: [problem.detail, problem.hint].filter(Boolean).join(' '),
        })
      } else toast.success('Queued step saved.')
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
