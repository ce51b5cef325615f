import { createHash, randomBytes } from 'node:crypto'
import type { Clock } from '@frustum/contract'
import { atMost, DAY_MS } from '@frustum/core'
import { and, eq, isNull, lt, ne } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { operators, sessions } from '../database/schema.ts'
import type { SignedIn } from '../http/signedIn.ts'

/** How long a browser that is not used stays signed in, d. */
export const SESSION_DAYS = 30

const HOUR_MS = 3_600_000

const hashed = (token: string): string => createHash('sha256').update(token).digest('hex')

/** Browsers that are signed in: each knows a random token, of which only the hash is stored. */
export class Sessions {
  readonly #db: Database
  readonly #clock: Clock

  constructor(db: Database, clock: Clock) {
    this.#db = db
    this.#clock = clock
  }

  /** Signs a browser in. @returns the token that it is to keep */
  async begin(operatorId: number): Promise<string> {
    const token = randomBytes(32).toString('base64url')
    const at = new Date(this.#clock.now())
    await this.#db.delete(sessions).where(lt(sessions.lastUsedAt, this.#oldest()))
    await this.#db
      .insert(sessions)
      .values({ token: hashed(token), operatorId, by: 'password', startedAt: at, lastUsedAt: at })
    return token
  }

  /** Who holds a token; null where nobody does any more, or the person was archived. */
  of(token: string, browser?: string): Promise<SignedIn | null> {
    return this.known(hashed(token), browser)
  }

  /** The same, by the hash of the token. */
  async known(hash: string, browser = hash): Promise<SignedIn | null> {
    const [found] = await this.#db
      .select({ session: sessions, person: operators })
      .from(sessions)
      .innerJoin(operators, and(eq(operators.id, sessions.operatorId), isNull(operators.archivedAt)))
      .where(eq(sessions.token, hash))
    if (!found || found.session.lastUsedAt < this.#oldest()) return null
    const { session, person } = found
    const now = this.#clock.now()
    if (Math.abs(now - session.lastUsedAt.getTime()) > HOUR_MS) {
      await this.#db
        .update(sessions)
        .set({ lastUsedAt: new Date(now) })
        .where(eq(sessions.token, session.token))
    }
    return {
      id: person.id,
      name: person.name,
      // A PIN is short, and is typed where others look on: it does not open the set-up.
      role: session.by === 'pin' ? atMost(person.role, 'operator') : person.role,
      by: session.by,
      session: session.token,
      browser,
    }
  }

  /** Somebody else takes a browser over. */
  async handOver(session: string, operatorId: number): Promise<void> {
    await this.#db.update(sessions).set({ operatorId, by: 'pin' }).where(eq(sessions.token, session))
  }

  async end(session: string): Promise<void> {
    await this.#db.delete(sessions).where(eq(sessions.token, session))
  }

  /** Ends all of a person, but for one where it is named. */
  async endAllOf(operatorId: number, but = ''): Promise<void> {
    await this.#db.delete(sessions).where(and(eq(sessions.operatorId, operatorId), ne(sessions.token, but)))
  }

  #oldest(): Date {
    return new Date(this.#clock.now() - SESSION_DAYS * DAY_MS)
  }
}
