import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url))

/** The time of the last migration in the oldest schema that can be upgraded, epoch ms. */
export const OLDEST_MIGRATION = 1_795_582_496_015

/** Brings a database with the oldest schema to the baseline. */
export const fromOldest = (): string[] =>
  readFileSync(join(MIGRATIONS, 'from-0003.sql'), 'utf8').split('--> statement-breakpoint')

const times = (): number[] => {
  const journal = readFileSync(join(MIGRATIONS, 'meta', '_journal.json'), 'utf8')
  return (JSON.parse(journal) as { entries: readonly { when: number }[] }).entries.map(({ when }) => when)
}

/** The time of the baseline, which creates all tables in a new database, epoch ms. */
export const baselineMigration = (): number => times()[0] ?? 0

/** The time of the last migration, epoch ms. */
export const newestMigration = (): number => times().at(-1) ?? 0
