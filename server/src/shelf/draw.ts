import type { CapturedReading } from '@frustum/core'
import { and, eq, isNull } from 'drizzle-orm'
import type { Transaction } from '../database/open.ts'
import { solutionLots, solutionUses } from '../database/schema.ts'
import type { OpenedVisit } from '../visits/records.ts'

/** A pouring of a cup, mL (common practice, no source). */
const POURING = 20

/** Each point in a standard drew a pouring from its lot; the first one opens the bottle. */
export async function drawFromLot(
  tx: Transaction,
  { row, installed }: OpenedVisit,
  operator: string,
  reading: CapturedReading,
  at: Date,
): Promise<void> {
  const { standard } = reading
  if (!standard?.lot) return
  const [lot] = await tx
    .select()
    .from(solutionLots)
    .where(
      and(
        eq(solutionLots.standard, standard.code),
        eq(solutionLots.lot, standard.lot),
        isNull(solutionLots.discardedAt),
      ),
    )
  if (!lot) return
  if (!lot.openedOn) await tx.update(solutionLots).set({ openedOn: at }).where(eq(solutionLots.id, lot.id))
  await tx.insert(solutionUses).values({
    lotId: lot.id,
    visitId: row.id,
    at,
    milliliters: POURING,
    operator,
    reason: installed.position.code,
  })
}
