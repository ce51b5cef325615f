import { PGlite } from '@electric-sql/pglite'

/** Run as a process of its own by open.ts: makes an empty database in the folder that it is told. */
const client = await PGlite.create(process.argv[2] as string)
await client.close()
