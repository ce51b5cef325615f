import { eq, inArray, isNotNull, isNull, or } from 'drizzle-orm'
import { QueryBuilder } from 'drizzle-orm/pg-core'
import type { Database } from '../database/open.ts'
import { imports, visitEntries, visits } from '../database/schema.ts'

/** Of visits that are being taken in from a file nobody is told before all of them are there. */
export const isWholeRecord = or(
  isNull(visits.importId),
  inArray(
    visits.importId,
    new QueryBuilder().select({ id: imports.id }).from(imports).where(isNotNull(imports.doneAt)),
  ),
)

/** Takes back what came in of a file: it had not all come in. */
export async function takeBack(db: Database, importId: number): Promise<void> {
  await db.transaction(async (tx) => {
    const ofImport = tx.select({ id: visits.id }).from(visits).where(eq(visits.importId, importId))
    await tx.delete(visitEntries).where(inArray(visitEntries.visitId, ofImport))
    await tx.delete(visits).where(eq(visits.importId, importId))
    await tx.delete(imports).where(eq(imports.id, importId))
  })
}

/** Takes back all imports that the end of the server cut off. */
export async function takeBackUnfinished(db: Database): Promise<void> {
  const cut = await db.select({ id: imports.id }).from(imports).where(isNull(imports.doneAt))
  for (const { id } of cut) await takeBack(db, id)
}
