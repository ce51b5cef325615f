import type { FleetView } from '@frustum/contract'
import { CAUSES, type Cause } from '@frustum/core'
import type { Database, Transaction } from '../database/open.ts'
import { confirmedCauses } from '../database/schema.ts'
import { siteHealth } from './computed.ts'

export type Proposed = readonly { cause: Cause; probability: number }[]

/** Causes of retirement that are known to the diagnosis by another word. */
const OTHER_WORDS: Partial<Record<string, Cause>> = {
  'tip-spent': 'ion-tip-spent',
  'cable-or-connector': 'connector-wet',
}

/** What the diagnosis proposes for a sensor at this moment; nothing for one that is not installed. */
export async function proposedCauses(db: Database, installationId: number, now: number): Promise<Proposed> {
  const health = (await siteHealth(db, now)).get(installationId)
  return health?.diagnosis.ranked.map(({ cause, probability }) => ({ cause, probability })) ?? []
}

/** What it turned out to be while it is still in its place, noted beside what was proposed. */
export async function recordConfirmedCause(
  db: Database,
  confirmed: { installationId: number; operator: string; cause: Cause },
  now: number,
): Promise<void> {
  const proposed = await proposedCauses(db, confirmed.installationId, now)
  await db.insert(confirmedCauses).values({ ...confirmed, at: new Date(now), proposed })
}

/** A cause given at retirement, noted beside what was proposed; "by date" and "not known" tell nothing of a diagnosis. */
export async function noteRetirement(
  tx: Transaction,
  retired: { installationId: number; at: Date; operator: string; cause: unknown; proposed: Proposed },
): Promise<void> {
  const { cause: given, ...rest } = retired
  const cause = OTHER_WORDS[String(given)] ?? CAUSES.find((c) => c === given)
  if (cause) await tx.insert(confirmedCauses).values({ ...rest, cause })
}

/** How often the cause that was confirmed had been proposed first, or among the first two. */
export async function hitRate(db: Database): Promise<FleetView['confirmed']> {
  const rows = await db.select().from(confirmedCauses)
  const within = (first: number) =>
    rows.filter((r) => r.proposed.slice(0, first).some((p) => p.cause === r.cause)).length
  return { count: rows.length, first: within(1), firstTwo: within(2) }
}
