import type { Database } from './open.ts'

interface Entry {
  restsOn: readonly unknown[]
  value: unknown
}

/** More is held than any screen asks for at once; beyond it the longest unused goes. */
const MOST_ENTRIES = 20_000

const entries = new WeakMap<Database, Map<string, Entry>>()

/**
 * Something computed from the records, cached under its name. The one rule: it stands as long as everything that it
 * rests on is the same (compared one by one, by identity), and is computed anew otherwise. A failure is not cached.
 * @param restsOn revisions, instants by the hour, objects that are replaced and never changed
 * @param compute gets what was there before, for what only grows
 */
export function derived<T>(
  db: Database,
  name: string,
  restsOn: readonly unknown[],
  compute: (before: T | undefined) => T,
): T {
  const held = entries.get(db) ?? new Map<string, Entry>()
  entries.set(db, held)
  const entry = held.get(name)
  const same = entry?.restsOn.length === restsOn.length && restsOn.every((r, i) => Object.is(r, entry.restsOn[i]))
  const value = same ? (entry.value as T) : compute(entry?.value as T | undefined)
  // Put last again: the map's order is that of use.
  held.delete(name)
  held.set(name, { restsOn, value })
  if (held.size > MOST_ENTRIES) held.delete(held.keys().next().value as string)
  if (!same && value instanceof Promise) {
    value.catch(() => {
      if (held.get(name)?.value === value) held.delete(name)
    })
  }
  return value
}

/**
 * What a page shows, computed once for all who look at it: anew after anything was written, and once it is older than
 * `freshMs`. Whoever asks meanwhile waits for the same answer.
 * @param now epoch ms by the site's clock
 */
export const shownToAll = <T>(
  db: Database,
  name: string,
  { now, freshMs }: { now: number; freshMs: number },
  compute: () => Promise<T>,
): Promise<T> => derived(db, `shown: ${name}`, [db.$client.writes, Math.floor(now / freshMs)], compute)

/** Of pages that hold live values: these move twice a second, and a page follows their stream besides. */
export const LIVE_MS = 1000

/** Of pages that hold dates and ages in minutes and days. */
export const DATES_MS = 60_000
