import { AsyncLocalStorage } from 'node:async_hooks'
import { createHash } from 'node:crypto'
import { DAY_MS } from '@frustum/core'
import canonicalize from 'canonicalize'
import { eq, lt } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { actions } from '../database/schema.ts'
import { Problem } from '../problem.ts'

/** A request under an id of its own, and what tells whether another one under that id is the same. */
interface Action {
  id: string
  fingerprint: string
}

/** Performs an action once, however often it is sent under the same id, and answers each time. */
export type DoneOnce = <T>(action: Action, work: () => Promise<T> | T) => Promise<T>

/** Fields that are left out: what is stored must not help to guess a password. */
const SECRETS = new Set(['password', 'current', 'pin', 'passphrase', 'secret', 'token'])

/** Identifies a request by its person, address and content, so that no id opens another request's answer. */
export function fingerprintOf(person: number | null, address: string, body: unknown): string {
  return createHash('sha256')
    .update(canonicalize({ person, address }) ?? '')
    .update(Buffer.isBuffer(body) ? body : contentOf(body))
    .digest('hex')
}

/** The time at which an outbox sent it is no part of what was asked. */
function contentOf(body: unknown): string {
  const { madeAt: _, ...content } = (body ?? {}) as { madeAt?: number }
  const told = JSON.parse(JSON.stringify(content, (key, value) => (SECRETS.has(key) ? undefined : value)))
  return canonicalize(told) ?? ''
}

/** @throws Problem 409 if an id was used for something else; one stored without a fingerprint can't be compared */
export function refuseOther(stored: string | null | undefined, sent: string): void {
  if (!stored || stored === sent) return
  throw new Problem(409, 'action-id-reused', 'This action ID was already used for a different request.', {
    detail: 'Nothing was recorded.',
    hint: 'Send it again with a new ID.',
  })
}

/**
 * The id is written in the same transaction as what the action writes first: a power cut leaves both or neither. An
 * action that writes nothing, or is refused, may be asked for again.
 */
export function doneOnce(db: Database): DoneOnce {
  const doing = new AsyncLocalStorage<Action & { noted: boolean }>()
  const underWay = new Map<string, { fingerprint: string; answered: Promise<unknown> }>()
  db.$client.companion = {
    wanted: () => doing.getStore()?.noted === false,
    write: async (tx) => {
      const action = doing.getStore()
      if (!action) return
      await tx.query('insert into actions (id, fingerprint, at) values ($1, $2, now())', [
        action.id,
        action.fingerprint,
      ])
      action.noted = true
    },
  }

  async function answer<T>(action: Action, work: () => Promise<T> | T): Promise<T> {
    const [known] = await db.select().from(actions).where(eq(actions.id, action.id))
    if (known) refuseOther(known.fingerprint, action.fingerprint)
    if (known && known.answer !== null) return known.answer as T
    if (known) {
      throw new Problem(409, 'done-already', 'Already recorded (the confirmation was lost).', {
        hint: 'Reload to see the result.',
      })
    }
    const now = { ...action, noted: false }
    const answered = await doing.run(now, async () => work())
    if (now.noted) await db.update(actions).set({ answer: answered }).where(eq(actions.id, action.id))
    return answered
  }

  return async <T>(action: Action, work: () => Promise<T> | T) => {
    const same = underWay.get(action.id)
    if (same) {
      refuseOther(same.fingerprint, action.fingerprint)
      return same.answered as Promise<T>
    }
    const answered = answer(action, work)
    underWay.set(action.id, { fingerprint: action.fingerprint, answered })
    try {
      return await answered
    } finally {
      underWay.delete(action.id)
    }
  }
}

/** An outbox that was away for longer than this starts anew, d. */
const REMEMBERED_DAYS = 60

/** Answers that nobody waits for any more: they would grow as the records do, and say nothing that those do not. */
export async function forgetOldActions(db: Database, now: number): Promise<void> {
  await db.delete(actions).where(lt(actions.at, new Date(now - REMEMBERED_DAYS * DAY_MS)))
}
