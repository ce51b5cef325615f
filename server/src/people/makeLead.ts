import { eq, sql } from 'drizzle-orm'
import { noteDone } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { credentials, operators, sessions, sites } from '../database/schema.ts'
import { addThing, setUpSite } from '../rig/add.ts'
import { setPassword } from './access.ts'

export interface NewLead {
  name: string
  password: string
  /** Of the site, where there is none yet. */
  site: string
  timeZone: string
}

/** What is known before a lead is made: the site's name, and who works there. */
export async function whoIsThere(db: Database): Promise<{ site: string | null; people: string[] }> {
  const [site] = await db.select({ name: sites.name }).from(sites)
  const people = await db.select({ name: operators.name }).from(operators).orderBy(operators.name)
  return { site: site?.name ?? null, people: people.map((p) => p.name) }
}

/**
 * Makes somebody a lead with a password, as whoever sits at the server may: the first of a site, or one whose password
 * is lost. People sign in from then on. Browsers that were signed in in that name are not any more.
 */
export async function makeLead(db: Database, { name, password, site, timeZone }: NewLead, at: Date): Promise<void> {
  const byName = sql`lower(${operators.name}) = ${name.toLowerCase()}`
  if ((await whoIsThere(db)).site === null) await setUpSite(db, { name: site, person: name, timeZone }, at)
  const [known] = await db.select().from(operators).where(byName)
  const id = known?.id ?? (await addThing(db, 'person', { operator: name, values: { name } }, at))
  await db.transaction(async (tx) => {
    await tx.update(operators).set({ role: 'lead', archivedAt: null }).where(eq(operators.id, id))
    await setPassword(tx, id, password)
    await tx.update(credentials).set({ pin: null }).where(eq(credentials.operatorId, id))
    await tx.delete(sessions).where(eq(sessions.operatorId, id))
    await tx.update(sites).set({ signIn: true })
    await noteDone(tx, { subject: 'person', id }, { operator: name, at }, 'Made a lead with a password, at the server')
  })
}
