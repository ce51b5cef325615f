import { type CapturedReading, POURING_ML } from '@frustum/core'
import { and, eq, isNull } from 'drizzle-orm'
import type { Transaction } from '../database/open.ts'
import { solutionLots, solutionUses } from '../database/schema.ts'

/** Each point in a standard drew a pouring from its lot; the first one opens the bottle. */
export async function drawFromLot(
  tx: Transaction,
  reading: CapturedReading,
  use: { visitId: string; position: string; operator: string; at: Date },
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
  if (!lot.openedOn) await tx.update(solutionLots).set({ openedOn: use.at }).where(eq(solutionLots.id, lot.id))
  await tx.insert(solutionUses).values({
    lotId: lot.id,
    visitId: use.visitId,
    at: use.at,
    milliliters: POURING_ML,
    operator: use.operator,
    reason: use.position,
  })
}
