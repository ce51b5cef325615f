import { sql } from 'drizzle-orm'
import { visitEntries } from '../database/schema.ts'

const { entry } = visitEntries

/** An entry without its trace, which is most of a record and says nothing to those who read many of them. */
export const withoutTrace = sql<typeof visitEntries.$inferSelect.entry>`
  case when ${entry} #> '{reading,trace}' is null then ${entry} else jsonb_set(${entry}, '{reading,trace}', '[]') end
`.mapWith(entry)
