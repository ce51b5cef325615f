import { randomUUID } from 'node:crypto'
import type { Clock, MeView, PersonView } from '@frustum/contract'
import { and, eq, isNull, sql } from 'drizzle-orm'
import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible'
import { noteDone } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { credentials, operators, sites } from '../database/schema.ts'
import type { SignedIn } from '../http/signedIn.ts'
import { notFound, Problem } from '../problem.ts'
import { leadsWithPassword } from '../rig/things.ts'
import { hashSecret, isSecret } from './secrets.ts'
import { Sessions } from './sessions.ts'

type Person = typeof operators.$inferSelect

/** Wrong tries within so long, s, of one person from one address, of all persons from one, and of a tablet's PINs. */
const WITHIN = 15 * 60
const TRIES = { person: 5, address: 40, pin: 5 } as const

/** Who gets in, and what is known of who asks. */
export class Access {
  readonly sessions: Sessions
  /** Whether others reach this server: then people sign in whatever the site chose. */
  readonly mustSignIn: boolean
  /** Told apart from the start before. */
  readonly run = randomUUID()
  readonly #db: Database
  readonly #clock: Clock
  #asked: boolean
  readonly #byPerson = new RateLimiterMemory({ points: TRIES.person, duration: WITHIN })
  readonly #byAddress = new RateLimiterMemory({ points: TRIES.address, duration: WITHIN })
  readonly #byPin = new RateLimiterMemory({ points: TRIES.pin, duration: WITHIN })

  private constructor(db: Database, clock: Clock, mustSignIn: boolean, asked: boolean) {
    this.#db = db
    this.#clock = clock
    this.mustSignIn = mustSignIn
    this.#asked = asked
    this.sessions = new Sessions(db, clock)
  }

  static async open(db: Database, clock: Clock, mustSignIn: boolean): Promise<Access> {
    const [site] = await db.select({ signIn: sites.signIn }).from(sites)
    return new Access(db, clock, mustSignIn, site?.signIn ?? false)
  }

  /** Whether people sign in. */
  get signIn(): boolean {
    return this.mustSignIn || this.#asked
  }

  async me(who: SignedIn | null): Promise<MeView> {
    const { run, signIn, mustSignIn } = this
    if (!who) return { run, signIn, mustSignIn, person: null, role: null, by: null, others: [] }
    const people = await this.#people()
    const own = people.find((p) => p.id === who.id)
    if (!own) throw notFound('person')
    const others = people.filter((p) => p !== own).map(viewOf)
    const { role, by } = who
    return { run, signIn, mustSignIn, person: { ...viewOf(own), hasPassword: own.hasPassword }, role, by, others }
  }

  /** @returns the token for the browser to keep. @throws Problem 401 that does not tell whether there is such a person */
  async signInBy(name: string, password: string, address: string): Promise<string> {
    const key = `${name.toLowerCase()} ${address}`
    await this.#take(this.#byAddress, address)
    await this.#take(this.#byPerson, key, () => this.#noteFailure(name))
    const person = await this.#called(name)
    const [known] = person ? await this.#db.select().from(credentials).where(eq(credentials.operatorId, person.id)) : []
    if (!(await isSecret(password, known?.password)) || !person) {
      throw new Problem(401, 'wrong-password', 'This name and password do not go together.', {
        hint: 'Check both. A lead can give you a new password.',
      })
    }
    await this.#byPerson.delete(key)
    await this.#note(person, 'Signed in')
    return this.sessions.begin(person.id)
  }

  /** Another person takes over a browser that is signed in. */
  async switchBy(who: SignedIn, id: number, pin: string): Promise<void> {
    const [person] = await this.#db
      .select()
      .from(operators)
      .where(and(eq(operators.id, id), isNull(operators.archivedAt)))
    const [known] = await this.#db.select().from(credentials).where(eq(credentials.operatorId, id))
    await this.#byPin.consume(who.session).catch(async () => {
      // Whoever tries on has the tablet in hand: the password is asked for again.
      await this.sessions.end(who.session)
      if (person) await this.#note(person, 'Wrong PIN typed several times; the tablet was signed out', who.name)
      throw new Problem(401, 'sign-in', 'Too many wrong PINs. Sign in with your password.')
    })
    if (!person || !(await isSecret(pin, known?.pin))) {
      throw new Problem(403, 'wrong-pin', 'This is not the PIN of the person chosen.', {
        detail: `After ${TRIES.pin} wrong ones the password is asked for.`,
        fields: { pin: 'Not the right PIN.' },
      })
    }
    await this.#byPin.delete(who.session)
    await this.sessions.handOver(who.session, id)
    await this.#note(person, 'Took over a tablet by PIN')
  }

  async signOut(who: SignedIn, everywhere: boolean): Promise<void> {
    await this.sessions.end(who.session)
    if (everywhere) await this.sessions.endAllOf(who.id)
    await this.#note(who, everywhere ? 'Signed out everywhere' : 'Signed out')
  }

  /** A new password, known to its owner alone: every other browser of theirs is signed out. */
  async changePassword(who: SignedIn, current: string, password: string): Promise<void> {
    await this.#confirm(who, current, 'current')
    await setPassword(this.#db, who.id, password)
    await this.sessions.endAllOf(who.id, who.session)
    await this.#note(who, 'Changed the password')
  }

  async changePin(who: SignedIn, password: string, pin: string | null): Promise<void> {
    await this.#confirm(who, password, 'password')
    const hash = pin === null ? null : await hashSecret(pin)
    await this.#db.update(credentials).set({ pin: hash }).where(eq(credentials.operatorId, who.id))
    await this.#note(who, pin === null ? 'Gave up the PIN' : 'Set a PIN')
  }

  /** A password from a lead: whoever it is for is signed out, and their PIN is gone. */
  async givePassword(by: string, id: number, password: string): Promise<void> {
    const [person] = await this.#db.select().from(operators).where(eq(operators.id, id))
    if (!person) throw notFound('person')
    await setPassword(this.#db, id, password)
    await this.#db.update(credentials).set({ pin: null }).where(eq(credentials.operatorId, id))
    await this.sessions.endAllOf(id)
    await this.#note(person, 'Given a new password', by)
  }

  /**
   * People sign in from now on, beginning with a lead who has a password, or do so no longer.
   * @returns the token of that lead's browser; null where it is switched off
   */
  async askSignIn(on: { name: string; password: string; address: string } | null): Promise<string | null> {
    if (on === null) {
      if (this.mustSignIn) {
        throw new Problem(409, 'must-sign-in', 'Others reach this server: people sign in here.', {
          detail: 'Nothing was changed.',
          hint: 'To work without, start it for this machine alone, without HOST and FRUSTUM_NAMES.',
        })
      }
      await this.#ask(false)
      return null
    }
    const person = await this.#called(on.name)
    if (!person) throw new Problem(400, 'invalid', 'Choose who you are.', { fields: { name: 'Choose who you are.' } })
    const [known] = await this.#db.select().from(credentials).where(eq(credentials.operatorId, person.id))
    // A password that was set once is asked for, not overwritten.
    if (!known?.password) await setPassword(this.#db, person.id, on.password)
    const token = await this.signInBy(on.name, on.password, on.address)
    await this.#db.update(operators).set({ role: 'lead' }).where(eq(operators.id, person.id))
    await this.#ask(true)
    return token
  }

  /** Whether anybody could set the site up, once people sign in. */
  async hasLead(): Promise<boolean> {
    return (await leadsWithPassword(this.#db)).length > 0
  }

  async #ask(on: boolean): Promise<void> {
    await this.#db.update(sites).set({ signIn: on })
    this.#asked = on
  }

  /** @throws Problem where it is not the password of who is signed in */
  async #confirm(who: SignedIn, password: string, field: string): Promise<void> {
    await this.#take(this.#byPerson, `own ${who.id}`)
    const [known] = await this.#db.select().from(credentials).where(eq(credentials.operatorId, who.id))
    if (!(await isSecret(password, known?.password))) {
      throw new Problem(403, 'wrong-password', 'This is not your password.', {
        detail: 'Nothing was changed.',
        fields: { [field]: 'Not your password.' },
      })
    }
    await this.#byPerson.delete(`own ${who.id}`)
  }

  /** Counts a try before it is made, so that many at once are counted too. @throws Problem 429 */
  async #take(limit: RateLimiterMemory, key: string, onLimit?: () => Promise<void>): Promise<void> {
    await limit.consume(key).catch(async ({ consumedPoints }: RateLimiterRes) => {
      // Said once, not for each further try.
      if (consumedPoints === limit.points + 1) await onLimit?.()
      throw new Problem(429, 'too-many-tries', 'Too many wrong tries.', {
        hint: `Wait ${WITHIN / 60} minutes, then try once more.`,
      })
    })
  }

  async #called(name: string): Promise<Person | undefined> {
    const [person] = await this.#db
      .select()
      .from(operators)
      .where(and(sql`lower(${operators.name}) = ${name.trim().toLowerCase()}`, isNull(operators.archivedAt)))
    return person
  }

  async #people(): Promise<(Person & { hasPin: boolean; hasPassword: boolean })[]> {
    const rows = await this.#db
      .select({ person: operators, known: credentials })
      .from(operators)
      .leftJoin(credentials, eq(credentials.operatorId, operators.id))
      .where(isNull(operators.archivedAt))
      .orderBy(operators.name)
    return rows.map(({ person, known }) => ({
      ...person,
      hasPin: known?.pin != null,
      hasPassword: known?.password != null,
    }))
  }

  async #noteFailure(name: string): Promise<void> {
    const person = await this.#called(name)
    if (person) await this.#note(person, 'Wrong password typed several times', 'Somebody')
  }

  #note({ id, name }: { id: number; name: string }, what: string, by = name): Promise<void> {
    const at = new Date(this.#clock.now())
    return noteDone(this.#db, { subject: 'person', id }, { operator: by, at }, what)
  }
}

/** Stores a password of somebody, in place of what was there. */
export async function setPassword(db: Database | Transaction, id: number, password: string): Promise<void> {
  const hash = await hashSecret(password)
  await db
    .insert(credentials)
    .values({ operatorId: id, password: hash })
    .onConflictDoUpdate({ target: credentials.operatorId, set: { password: hash } })
}

const viewOf = ({ id, name, role, hasPin }: Person & { hasPin: boolean }): PersonView => ({ id, name, role, hasPin })
