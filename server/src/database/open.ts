import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { drizzle, type PgliteDatabase } from 'drizzle-orm/pglite'
import { migrate } from 'drizzle-orm/pglite/migrator'
import { type BegunDatabase, beginDatabase } from './begin.ts'
import type { Engine } from './engine/engine.ts'
import { baselineMigration, fromOldest, MIGRATIONS, newestMigration, OLDEST_MIGRATION } from './migrations.ts'
import * as schema from './schema.ts'
import { cannotOpen, checkTables, checkVersion, dropInventory, writeInventory } from './whole.ts'

export type Database = PgliteDatabase<typeof schema> & { $client: Engine }
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

export interface OpenDatabase {
  db: Database
  close(): Promise<void>
}

/** Waits for a database to open and brings its tables up to date. @throws StartProblem when its folder cannot be had */
export async function openDatabase(begun: Promise<BegunDatabase>): Promise<OpenDatabase> {
  const { engine, path, unlock } = await begun
  const close = async () => {
    await engine.close().finally(unlock)
  }
  try {
    await engine.ready.catch((error: Error) => {
      throw cannotOpen(path, error.message)
    })
    await checkTables(engine, path)
    const last = await checkVersion(engine, path)
    // Of the library's interface the query builder uses what the engine has.
    const db = drizzle(engine as unknown as PGlite, { schema }) as unknown as Database
    if (last < newestMigration()) {
      await dropInventory(path)
      if (last === OLDEST_MIGRATION) await upgradeOldest(db)
      await migrate(db, { migrationsFolder: MIGRATIONS })
    }
    await writeInventory(engine, path)
    return { db, close }
  } catch (error) {
    await close().catch(() => undefined)
    throw error
  }
}

/** Brings the tables of the oldest schema to the baseline, all or none. */
const upgradeOldest = (db: Database): Promise<void> =>
  db.transaction(async (tx) => {
    for (const statement of fromOldest()) await tx.execute(sql.raw(statement))
    await tx.execute(
      sql`insert into drizzle.__drizzle_migrations (hash, created_at) values ('from-0003', ${baselineMigration()})`,
    )
  })

/** Opens the database in a data folder, which becomes this process's own. @throws StartProblem */
export const openDatabaseIn = (folder: string): Promise<OpenDatabase> => openDatabase(beginDatabase(folder))
