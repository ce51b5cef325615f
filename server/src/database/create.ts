import { PGlite } from '@electric-sql/pglite'
import { drizzle } from 'drizzle-orm/pglite'
import { migrate } from 'drizzle-orm/pglite/migrator'
import { MIGRATIONS } from './migrations.ts'

/** Run as a process of its own by template.ts: makes an empty database with all tables in the folder that it is told. */
const client = await PGlite.create(process.argv[2] as string)
await migrate(drizzle(client), { migrationsFolder: MIGRATIONS })
await client.close()
