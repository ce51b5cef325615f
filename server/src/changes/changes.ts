import { type ChangeView, RULE_BOUNDS } from '@frustum/contract'
import {
  CHECK_FIRST_WORDS,
  exactly,
  INTERVAL_METHOD_WORDS,
  inPercent,
  modelOf,
  type SensorKind,
  type Sentence,
  say,
  WORKING_PRACTICES,
} from '@frustum/core'
import { and, desc, eq, isNull } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { changes, positions } from '../database/schema.ts'
import { notFound, Problem } from '../problem.ts'

type ChangeRow = typeof changes.$inferSelect
type Value = ChangeRow['after']

export interface Author {
  operator: string
  at: Date
  why?: string | undefined
}

/** Writes a line for each field that differs. */
export async function noteChanges(
  tx: Transaction,
  positionId: number | null,
  { operator, at, why }: Author,
  { before, after }: { before: Readonly<Record<string, Value>>; after: Readonly<Record<string, Value>> },
): Promise<void> {
  const differing = Object.keys(after).filter((field) => (before[field] ?? null) !== (after[field] ?? null))
  if (differing.length === 0) return
  await tx.insert(changes).values(
    differing.map((field) => ({
      at,
      operator,
      positionId,
      field,
      before: before[field] ?? null,
      after: after[field] ?? null,
      validFrom: at,
      why: why || null,
    })),
  )
}

/** What was changed at a position, or of the whole site, newest first. */
export async function changesOf(
  db: Database,
  position: { id: number; kind: SensorKind } | null,
): Promise<ChangeView[]> {
  const rows = await db
    .select()
    .from(changes)
    .where(position ? eq(changes.positionId, position.id) : isNull(changes.positionId))
    .orderBy(desc(changes.id))
    .limit(50)
  const undone = new Set(rows.flatMap((r) => r.undoes ?? []))
  // Only what holds still can be undone: the newest line of its field.
  const newest = new Map<string, number>()
  for (const { field, id } of rows) if (!newest.has(field)) newest.set(field, id)
  return rows.map((row) => ({
    id: row.id,
    at: row.at.getTime(),
    operator: row.operator,
    what: changeSentence(row, position?.kind ?? null),
    why: row.why,
    undo: row.undoes === null && !undone.has(row.id) && newest.get(row.field) === row.id,
  }))
}

/** Takes a change back, as one more line. @throws Problem when it was changed again since */
export async function undoChange(
  tx: Transaction,
  of: { positionId: number | null; id: number },
  { operator, at }: Author,
): Promise<{ field: string; value: Value }> {
  // Beyond what a row can be numbered there is none.
  if (!Number.isInteger(of.id) || of.id < 1 || of.id > 2 ** 31 - 1) throw notFound('change')
  const [row] = await tx
    .select()
    .from(changes)
    .where(
      and(
        eq(changes.id, of.id),
        of.positionId === null ? isNull(changes.positionId) : eq(changes.positionId, of.positionId),
      ),
    )
  if (!row) throw notFound('change')
  const [newest] = await tx
    .select({ id: changes.id })
    .from(changes)
    .where(
      and(
        eq(changes.field, row.field),
        row.positionId === null ? isNull(changes.positionId) : eq(changes.positionId, row.positionId),
      ),
    )
    .orderBy(desc(changes.id))
    .limit(1)
  if (newest?.id !== row.id) {
    throw new Problem(409, 'changed-since', 'This was changed again since.', { hint: 'Undo the newest change first.' })
  }
  await tx.insert(changes).values({
    at,
    operator,
    positionId: row.positionId,
    field: row.field,
    before: row.after,
    after: row.before,
    validFrom: at,
    why: null,
    undoes: row.id,
  })
  if (row.positionId !== null) {
    await tx
      .update(positions)
      .set({ [row.field]: row.before })
      .where(eq(positions.id, row.positionId))
  }
  return { field: row.field, value: row.before }
}

/** Rules that are a choice: what they are called, and their choices. */
const CHOICES: Readonly<Record<string, { title: string; words: Readonly<Record<string, string>> }>> = {
  method: { title: 'How the next date is found', words: INTERVAL_METHOD_WORDS },
  checkFirst: { title: 'How a visit begins', words: CHECK_FIRST_WORDS },
  ...Object.fromEntries(
    Object.entries(WORKING_PRACTICES).map(([topic, { title, choices }]) => [
      topic,
      {
        title,
        words: Object.fromEntries(Object.entries(choices).map(([value, { label }]) => [value, label.toLowerCase()])),
      },
    ]),
  ),
}

function changeSentence({ field, before, after, undoes }: ChangeRow, kind: SensorKind | null): Sentence {
  const choice = CHOICES[field]
  const bounds = Object.entries(RULE_BOUNDS).find(([name]) => name === field)?.[1]
  const title = choice?.title ?? capital(bounds?.what ?? field)
  const words = (value: Value): Sentence => {
    if (value === null) return 'none'
    if (choice) return choice.words[String(value)] ?? String(value)
    if (typeof value !== 'number') return String(value)
    if (field === 'reliability') return say`${inPercent(value)}`
    const quantity = exactly(value, bounds?.unit || unitOf(field, kind))
    return say`${field === 'tolerance' ? { ...quantity, difference: true as const } : quantity}`
  }
  return say`${title}: ${words(before)}, now ${words(after)}${undoes === null ? '' : ' (undone)'}`
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

/** The unit that comes with the kind. */
function unitOf(field: string, kind: SensorKind | null): string {
  if (!kind) return ''
  const model = modelOf(kind)
  return field === 'tolerance' ? model.errorScale.unit : field === 'processValue' ? model.coreUnit : ''
}
