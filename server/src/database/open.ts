import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { PGlite } from '@electric-sql/pglite'
import { drizzle } from 'drizzle-orm/pglite'
import { migrate } from 'drizzle-orm/pglite/migrator'
import { lockDataFolder } from './lock.ts'
import * as schema from './schema.ts'

const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url))

export type Database = ReturnType<typeof drizzle<typeof schema, PGlite>>
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

export interface OpenDatabase {
  db: Database
  close(): Promise<void>
}

/** Opens the database in a data folder that becomes this process's own, and brings its tables up to date. */
export async function openDatabase(folder: string): Promise<OpenDatabase> {
  const unlock = lockDataFolder(folder)
  try {
    const client = await PGlite.create(join(folder, 'database'))
    const db = drizzle(client, { schema })
    await migrate(db, { migrationsFolder: MIGRATIONS })
    return {
      db,
      close: async () => {
        await client.close()
        unlock()
      },
    }
  } catch (error) {
    unlock()
    throw error
  }
}
