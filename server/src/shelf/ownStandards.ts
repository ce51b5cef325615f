import { knowOwnStandards, type OwnStandard } from '@frustum/core'
import { asc } from 'drizzle-orm'
import type { Database, Transaction } from '../database/open.ts'
import { ownStandards } from '../database/schema.ts'

/** Standards of the site's own, those that were put away among them: records speak of these too. */
export async function ownStandardsOf(db: Database | Transaction): Promise<OwnStandard[]> {
  const rows = await db.select().from(ownStandards).orderBy(asc(ownStandards.id))
  return rows.map(({ code, kind, label, printed, uncertainty, against, ion, caution, archivedAt }) => ({
    code,
    kind,
    label,
    table: printed,
    uncertainty,
    ...(against ? { against } : {}),
    ...(ion ? { ion } : {}),
    caution,
    archived: archivedAt !== null,
  }))
}

/** From now on forms, visits and records know them. */
export async function followOwnStandards(db: Database): Promise<void> {
  knowOwnStandards(await ownStandardsOf(db))
}
