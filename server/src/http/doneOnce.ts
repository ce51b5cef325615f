import { AsyncLocalStorage } from 'node:async_hooks'
import { DAY_MS } from '@frustum/core'
import { eq, lt } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { actions } from '../database/schema.ts'
import { Problem } from '../problem.ts'

/** Does what is asked for once, however often it is asked for under the same id, and answers each time. */
export type DoneOnce = <T>(id: string, work: () => Promise<T> | T) => Promise<T>

/**
 * The id is written in the same transaction as what the action writes first: a power cut leaves both or neither. An
 * action that writes nothing, or is refused, may be asked for again.
 */
export function doneOnce(db: Database): DoneOnce {
  const doing = new AsyncLocalStorage<{ id: string; noted: boolean }>()
  const underWay = new Map<string, Promise<unknown>>()
  db.$client.companion = {
    wanted: () => doing.getStore()?.noted === false,
    write: async (tx) => {
      const action = doing.getStore()
      if (!action) return
      await tx.query('insert into actions (id, at) values ($1, now())', [action.id])
      action.noted = true
    },
  }

  async function answer<T>(id: string, work: () => Promise<T> | T): Promise<T> {
    const [known] = await db.select().from(actions).where(eq(actions.id, id))
    if (known && known.answer !== null) return known.answer as T
    if (known) {
      throw new Problem(409, 'done-already', 'This was recorded already; only its answer was lost on the way.', {
        hint: 'Look at it as it is now.',
      })
    }
    const action = { id, noted: false }
    const answered = await doing.run(action, async () => work())
    if (action.noted) await db.update(actions).set({ answer: answered }).where(eq(actions.id, id))
    return answered
  }

  return async <T>(id: string, work: () => Promise<T> | T) => {
    const same = underWay.get(id)
    if (same) return same as Promise<T>
    const answered = answer(id, work)
    underWay.set(id, answered)
    try {
      return await answered
    } finally {
      underWay.delete(id)
    }
  }
}

/** An outbox that was away for longer than this starts anew, d. */
const REMEMBERED_DAYS = 60

/** Answers that nobody waits for any more: they would grow as the records do, and say nothing that those do not. */
export async function forgetOldActions(db: Database, now: number): Promise<void> {
  await db.delete(actions).where(lt(actions.at, new Date(now - REMEMBERED_DAYS * DAY_MS)))
}
