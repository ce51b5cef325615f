import type { ChangeView, Subject } from '@frustum/contract'
import { DAY_MS, exactly, type FieldSpec, inPercent, render, type Sentence, say } from '@frustum/core'
import { and, desc, eq, isNull } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { changes } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'

type ChangeRow = typeof changes.$inferSelect
export type Value = ChangeRow['after']
/** Fields of something by their names, as they are stored. */
export type Values = Readonly<Record<string, Value>>

/** What is changed: which kind of thing, and which of them; the site itself has no number. */
export interface ChangedThing {
  subject: Subject
  id: number | null
}

export interface Author {
  operator: string
  at: Date
  why?: string | undefined
  /** Since when it is so; from now on unless said. */
  validFrom?: Date | undefined
  /** Fields with which a sensor takes another course since then. */
  turning?: readonly string[]
}

const isOf = ({ subject, id }: ChangedThing) =>
  and(eq(changes.subject, subject), id === null ? isNull(changes.subjectId) : eq(changes.subjectId, id))

/** Writes a line for each field that differs. Returns their names. */
export async function noteChanges(
  tx: Transaction,
  { subject, id }: ChangedThing,
  { operator, at, why, validFrom = at, turning = [] }: Author,
  { before, after }: { before: Values; after: Values },
): Promise<string[]> {
  const differing = Object.keys(after).filter((field) => (before[field] ?? null) !== (after[field] ?? null))
  if (differing.length === 0) return []
  await tx.insert(changes).values(
    differing.map((field) => ({
      at,
      operator,
      subject,
      subjectId: id,
      field,
      before: before[field] ?? null,
      after: after[field] ?? null,
      validFrom,
      turns: turning.includes(field),
      why: why || null,
    })),
  )
  return differing
}

/** How a field is named and its values are said. */
export type Words = (field: string) => { title: string; said: (value: Value) => Sentence }

/** What was changed of something, newest first. */
export async function changesOf(db: Database, of: ChangedThing, words: Words): Promise<ChangeView[]> {
  const rows = await db.select().from(changes).where(isOf(of)).orderBy(desc(changes.id)).limit(50)
  const undone = new Set(rows.flatMap((r) => r.undoes ?? []))
  // Only what holds still can be undone: the newest line of its field.
  const newest = new Map<string, number>()
  for (const { field, id } of rows) if (!newest.has(field)) newest.set(field, id)
  return rows.map((row) => ({
    id: row.id,
    at: row.at.getTime(),
    operator: row.operator,
    what: changeSentence(row, words),
    why: row.why,
    undo: !isEvent(row.field) && row.undoes === null && !undone.has(row.id) && newest.get(row.field) === row.id,
  }))
}

/** Stands for the beginning of something in its list of changes; what was added is archived or deleted, not undone. */
export const ADDED = 'added'

/** Stands for what somebody did that changed no field: signed in, renewed an address. */
const DID = 'did'

/** Neither of these has a value to go back to. */
const isEvent = (field: string): boolean => field === ADDED || field === DID

/** Writes a line on something that was done, in words. */
export async function noteDone(
  db: Database | Transaction,
  { subject, id }: ChangedThing,
  { operator, at, why }: Author,
  what: string,
): Promise<void> {
  const line = { at, operator, subject, subjectId: id, field: DID, before: null, after: what, validFrom: at }
  await db.insert(changes).values({ ...line, why: why || null })
}

/** The last line about a field, or null: who else has changed it. */
export async function lastChange(db: Database | Transaction, of: ChangedThing, field: string) {
  const [last] = await db
    .select()
    .from(changes)
    .where(and(isOf(of), eq(changes.field, field)))
    .orderBy(desc(changes.id))
    .limit(1)
  return last ?? null
}

/** Takes a change back, as one more line; who asks writes the value. @throws Problem when it was changed again since */
export async function undoChange(
  tx: Transaction,
  of: ChangedThing,
  change: number,
  { operator, at }: Author,
): Promise<{ field: string; value: Value; at: Date }> {
  // Beyond what a row can be numbered there is none.
  if (!Number.isInteger(change) || change < 1 || change > 2 ** 31 - 1) throw notFound('change')
  const [row] = await tx
    .select()
    .from(changes)
    .where(and(eq(changes.id, change), isOf(of)))
  if (!row || isEvent(row.field)) throw notFound('change')
  if ((await lastChange(tx, of, row.field))?.id !== row.id) {
    throw new Problem(409, 'changed-since', 'This was changed again since.', { hint: 'Undo the newest change first.' })
  }
  await tx.insert(changes).values({
    at,
    operator,
    subject: row.subject,
    subjectId: row.subjectId,
    field: row.field,
    before: row.after,
    after: row.before,
    validFrom: row.validFrom < row.at ? row.validFrom : at,
    why: null,
    undoes: row.id,
  })
  return { field: row.field, value: row.before, at: row.at }
}

export function changeSentence({ field, before, after, undoes, at, validFrom }: ChangeRow, words: Words): Sentence {
  if (field === ADDED) return say`Added: ${String(after ?? '')}`
  if (field === DID) return say`${String(after ?? '')}`
  const { title, said } = words(field)
  const text = (value: Value) => (value === null || value === '' ? 'none' : said(value))
  const since = at.getTime() - validFrom.getTime() > DAY_MS ? say` (so since ${{ at: validFrom.getTime() }})` : ''
  return say`${title}: ${text(before)}, now ${text(after)}${since}${undoes === null ? '' : ' (undone)'}`
}

/** Words for what a form asks for; a share of 1 stands in percent there. */
export const wordsOf =
  (fields: readonly FieldSpec[], otherwise: Words = plainWords): Words =>
  (key) => {
    const field = fields.find((f) => f.key === key)
    if (!field) return otherwise(key)
    return {
      title: field.row ? `${render(field.row)}, ${field.label.toLowerCase()}` : field.label.replace(/, ±$/, ''),
      said: (value) => {
        const choice = field.choices?.find((c) => c.value === String(value))
        if (choice) return choice.label
        if (field.kind === 'photo') return 'a photo'
        if (typeof value === 'boolean') return value ? 'yes' : 'no'
        if (typeof value !== 'number') return String(value)
        if (field.unit === '%' && value < 1) return say`${inPercent(value)}`
        const quantity = exactly(value, field.unit ?? '')
        return say`${key === 'tolerance' ? { ...quantity, difference: true as const } : quantity}`
      },
    }
  }

const plainWords: Words = (field) => ({
  title: field === 'archived' ? 'Archived' : field.charAt(0).toUpperCase() + field.slice(1),
  said: (value) => (typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)),
})
