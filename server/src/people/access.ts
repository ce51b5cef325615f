import { randomUUID } from 'node:crypto'
import type { Clock, MeView, PersonView } from '@frustum/contract'
import { DAY_MS } from '@frustum/core'
import { and, desc, eq, gt, inArray, isNull, sql } from 'drizzle-orm'
import { noteDone } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import { changes, credentials, operators, sites } from '../database/schema.ts'
import type { SignedIn } from '../http/signedIn.ts'
import { notFound, Problem } from '../problem.ts'
import { leadsWithPassword } from '../rig/things.ts'
import { hashSecret, isSecret } from './secrets.ts'
import { Sessions } from './sessions.ts'
import { WrongTries } from './wrongTries.ts'

type Person = typeof operators.$inferSelect

/** Wrong tries in a series: of one person, by password from one address or by PIN; and of all that share an address. */
const SERIES = 5
const OF_ADDRESS = 40

/** How a series is noted in the list of changes. */
const WRONG = {
  password: `${SERIES} wrong passwords in a row at sign-in`,
  pin: `${SERIES} wrong PINs in a row. The tablet was signed out`,
  confirmation: `${SERIES} wrong passwords in a row to confirm a change`,
} as const
/** Series of the last so many days, and at most so many, are shown to the person. */
const SHOWN_DAYS = 14
const SHOWN_MOST = 10

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
  readonly #passwords = new WrongTries(SERIES)
  readonly #pins = new WrongTries(SERIES)
  readonly #addresses = new WrongTries(OF_ADDRESS)

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
    if (!who) return { run, signIn, mustSignIn, person: null, role: null, by: null, others: [], wrongTries: [] }
    const people = await this.#people()
    const own = people.find((p) => p.id === who.id)
    if (!own) throw notFound('person')
    const others = people.filter((p) => p !== own).map(viewOf)
    const { role, by } = who
    const person = { ...viewOf(own), hasPassword: own.hasPassword }
    return { run, signIn, mustSignIn, person, role, by, others, wrongTries: await this.#wrongTriesOf(who.id) }
  }

  /** Series of wrong passwords and PINs of a person in the last days, newest first, for them to see. */
  async #wrongTriesOf(id: number): Promise<{ at: number; what: string }[]> {
    const since = new Date(this.#clock.now() - SHOWN_DAYS * DAY_MS)
    const rows = await this.#db
      .select({ at: changes.at, what: changes.after })
      .from(changes)
      .where(
        and(
          eq(changes.subject, 'person'),
          eq(changes.subjectId, id),
          gt(changes.at, since),
          inArray(changes.after, Object.values(WRONG)),
        ),
      )
      .orderBy(desc(changes.id))
      .limit(SHOWN_MOST)
    return rows.map(({ at, what }) => ({ at: at.getTime(), what: String(what) }))
  }

  /** @returns the token for the browser to keep. @throws Problem 401 that does not tell whether there is such a person */
  async signInBy(name: string, password: string, address: string): Promise<string> {
    const key = `${name.toLowerCase()} ${address}`
    // The person first: whoever is locked out must not use up the tries of everyone behind the same proxy.
    const last = await this.#passwords.count(key)
    const lastOfAddress = await this.#addresses.count(address)
    const person = await this.#called(name)
    const [known] = person ? await this.#db.select().from(credentials).where(eq(credentials.operatorId, person.id)) : []
    if (!(await isSecret(password, known?.password)) || !person) {
      if (lastOfAddress) await this.#addresses.lock(address)
      if (last) {
        await this.#passwords.lock(key)
        if (person) await this.#note(person, WRONG.password, 'Unknown')
      }
      throw new Problem(401, 'wrong-password', 'Wrong name or password.', {
        hint: 'Check both. A lead can give you a new password.',
      })
    }
    await this.#passwords.clear(key)
    await this.#addresses.forgive(address)
    await this.#note(person, 'Signed in')
    return this.sessions.begin(person.id)
  }

  /**
   * Another person takes over a browser that is signed in. Wrong PINs count against the person, whoever tries, and
   * against the browser, whoever is signed in there.
   */
  async switchBy(who: SignedIn, id: number, pin: string): Promise<void> {
    const [person] = await this.#db
      .select()
      .from(operators)
      .where(and(eq(operators.id, id), isNull(operators.archivedAt)))
    const [known] = await this.#db.select().from(credentials).where(eq(credentials.operatorId, id))
    const keys = [`person ${id}`, `browser ${who.browser}`]
    const last: string[] = []
    for (const key of keys) if (await this.#pins.count(key)) last.push(key)
    if (person && (await isSecret(pin, known?.pin))) {
      for (const key of keys) await this.#pins.clear(key)
      await this.sessions.handOver(who.session, id)
      await this.#note(person, 'Took over a tablet by PIN')
      return
    }
    if (last.length > 0) {
      for (const key of last) await this.#pins.lock(key)
      // Whoever keeps trying has the tablet in hand: it asks for the password again.
      await this.sessions.end(who.session)
      if (person) await this.#note(person, WRONG.pin, who.name)
      throw new Problem(401, 'sign-in', 'Too many wrong PINs. Sign in with your password.')
    }
    throw new Problem(403, 'wrong-pin', 'Wrong PIN for this person.', {
      detail: `After ${SERIES} wrong PINs the tablet is signed out.`,
      fields: { pin: 'Wrong PIN.' },
    })
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
    const key = `own ${who.id}`
    const last = await this.#passwords.count(key)
    const [known] = await this.#db.select().from(credentials).where(eq(credentials.operatorId, who.id))
    if (!(await isSecret(password, known?.password))) {
      if (last) {
        await this.#passwords.lock(key)
        await this.#note(who, WRONG.confirmation)
      }
      throw new Problem(403, 'wrong-password', "That isn't your password.", {
        detail: 'Nothing was changed.',
        fields: { [field]: 'Not your password.' },
      })
    }
    await this.#passwords.clear(key)
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
