import type { Database, Transaction } from '../database/open.ts'

class OnlyLookedAt extends Error {}

/** Does all of it in one transaction, and takes it back unless it is meant: what is looked at is what would be done. */
export async function lookedAtUnless(
  meant: boolean,
  db: Database,
  work: (tx: Transaction) => Promise<void>,
): Promise<void> {
  await db
    .transaction(async (tx) => {
      await work(tx)
      if (!meant) throw new OnlyLookedAt()
    })
    .catch((error: unknown) => {
      if (!(error instanceof OnlyLookedAt)) throw error
    })
}
