import { CHANNELS, type LineView, type Mapping } from '@frustum/contract'
import { and, asc, eq, isNull } from 'drizzle-orm'
import { type Author, noteDone } from '../changes/changes.ts'
import type { Database } from '../database/open.ts'
import { mappingProfiles } from '../database/schema.ts'
import { schemeOf } from '../devices/protocols/registry.ts'
import { notFound, Problem } from '../problem.ts'

/** Mappings that somebody kept to begin others with, by their names. */
export async function ownProfiles(db: Database): Promise<LineView['profiles']> {
  const rows = await db
    .select()
    .from(mappingProfiles)
    .where(isNull(mappingProfiles.archivedAt))
    .orderBy(asc(mappingProfiles.name))
  return rows.flatMap(({ id, name, mapping }) => {
    const family = mapping && schemeOf(mapping)?.family
    return mapping && family ? [{ id, name, family, mapping }] : []
  })
}

/** Keeps a mapping under a name; one that had that name before is put away. */
export async function keepProfile(
  db: Database,
  name: string,
  mapping: Mapping,
  author: Author,
): Promise<LineView['profiles']> {
  if (!CHANNELS.some((channel) => mapping[channel]))
    throw new Problem(400, 'invalid', 'There is nothing in it yet.', {
      fields: { name: 'There is nothing in it yet.' },
    })
  await db.transaction(async (tx) => {
    await tx
      .update(mappingProfiles)
      .set({ archivedAt: author.at })
      .where(and(eq(mappingProfiles.name, name), isNull(mappingProfiles.archivedAt)))
    await tx.insert(mappingProfiles).values({ name, mapping, madeAt: author.at, madeBy: author.operator })
    await noteDone(tx, { subject: 'site', id: null }, author, `Mapping kept: ${name}`)
  })
  return ownProfiles(db)
}

/** @throws Problem 404 */
export async function deleteProfile(db: Database, id: number, author: Author): Promise<LineView['profiles']> {
  await db.transaction(async (tx) => {
    const [gone] = await tx
      .update(mappingProfiles)
      .set({ archivedAt: author.at })
      .where(and(eq(mappingProfiles.id, id), isNull(mappingProfiles.archivedAt)))
      .returning()
    if (!gone) throw notFound('mapping')
    await noteDone(tx, { subject: 'site', id: null }, author, `Mapping put away: ${gone.name}`)
  })
  return ownProfiles(db)
}
