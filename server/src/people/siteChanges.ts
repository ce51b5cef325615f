import type { SiteChangeView } from '@frustum/contract'
import { desc, lt } from 'drizzle-orm'
import { changeSentence, type Words } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { changes } from '../database/schema.ts'
import { findThing } from '../rig/things.ts'

const PAGE = 200

/** What is gone has no words of its own any more. */
const GONE: { title: string; words: Words } = {
  title: 'deleted',
  words: (field) => ({ title: field, said: (value) => String(value) }),
}

/** Who did what to the site, newest first, from before a line's number on. */
export async function siteChanges(db: Database, before: number): Promise<SiteChangeView[]> {
  const rows = await db
    .select()
    .from(changes)
    .where(Number.isInteger(before) && before > 0 && before < 2 ** 31 ? lt(changes.id, before) : undefined)
    .orderBy(desc(changes.id))
    .limit(PAGE)
  const things = new Map<string, { title: string; words: Words }>()
  for (const { subject, subjectId } of rows) {
    const key = `${subject} ${subjectId}`
    if (!things.has(key)) things.set(key, (await findThing(db, subject, subjectId ?? 0)) ?? GONE)
  }
  return rows.map((row) => {
    const { title, words } = things.get(`${row.subject} ${row.subjectId}`) ?? GONE
    return {
      id: row.id,
      at: row.at.getTime(),
      operator: row.operator,
      subject: row.subject,
      subjectId: row.subjectId ?? 0,
      title,
      what: changeSentence(row, words),
      why: row.why,
    }
  })
}
