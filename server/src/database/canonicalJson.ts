import serialize from 'canonicalize'
import { sql } from 'drizzle-orm'
import { customType, type PgColumn } from 'drizzle-orm/pg-core'
import { type Check, DamagedRow } from './parsedJson.ts'

/**
 * JSON in its canonical form (RFC 8785): the same content is always the same bytes.
 * @throws Error for a number that is none
 */
const canonical = (value: unknown): string => serialize(value) ?? 'null'

/** A column that keeps its bytes: canonical JSON as text, which the database does not rewrite. Null where there is none. */
export const canonicalJson = <T>(what: string, check: Check) =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'text',
    toDriver: canonical,
    fromDriver: (text) => {
      const value: unknown = JSON.parse(text)
      const why = check(value)
      if (why !== null) throw new DamagedRow(what, why)
      return value as T
    },
  })

/** A part of such a column by its path: the database takes it out, and the rest stays where it is. */
export const partOf = <T>(document: PgColumn, ...path: string[]) =>
  sql<T | null>`${document}::jsonb #> ${`{${path.join()}}`}`
