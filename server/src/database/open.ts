import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { setImmediate } from 'node:timers/promises'
import { PGlite, type Results } from '@electric-sql/pglite'
import { drizzle } from 'drizzle-orm/pglite'
import { migrate } from 'drizzle-orm/pglite/migrator'
import { lockDataFolder } from './lock.ts'
import * as schema from './schema.ts'
import { createDatabase, MIGRATIONS } from './template.ts'

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
    const path = join(folder, 'database')
    if (!existsSync(path)) await createDatabase(path)
    const client = new PatientDatabase(path)
    await client.waitReady
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

/** So long may queries follow each other before whatever else waits has its turn, ms. */
const TURN_MS = 10

/**
 * PGlite runs in this thread and resolves in microtasks, which starves timers and sockets: hundreds of queries in a row
 * would hold up live readings until their lines time out. So it yields every few milliseconds.
 */
class PatientDatabase extends PGlite {
  #turnBegan = 0

  override async query<T>(...args: Parameters<PGlite['query']>): Promise<Results<T>> {
    const results = await super.query<T>(...args)
    if (performance.now() - this.#turnBegan > TURN_MS) {
      await setImmediate()
      this.#turnBegan = performance.now()
    }
    return results
  }
}
