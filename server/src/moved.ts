import type { Transaction } from './database/open.ts'
import { events } from './database/schema.ts'

/** Notes that a sensor came from another position: what is known of it goes with it. */
export async function noteMoved(
  tx: Transaction,
  { installationId, from, at, operator }: { installationId: number; from: string; at: Date; operator: string | null },
): Promise<void> {
  await tx.insert(events).values({
    installationId,
    at,
    kind: 'moved',
    note: `It came from ${from}; what is known of its slope and zero from there counts on.`,
    operator,
    // Moved on its own it is to be checked; a visit that moves it is that check.
    byHand: operator !== null,
  })
}
