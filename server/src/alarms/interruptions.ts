import type { Clock } from '@frustum/contract'
import { CLOCK_CHANGED, NOT_WATCHED } from '@frustum/core'
import type { Database, Transaction } from '../database/open.ts'
import { workMarks } from '../database/schema.ts'
import { recordPastAlarm } from './alarmStore.ts'

const MINUTE_MS = 60_000
/** The server was off for at least so long before it is reported, ms. */
const OFF_MS = 15 * MINUTE_MS
/** Changes of the clock that add up to less are not reported, ms. */
const CLOCK_MS = MINUTE_MS
/** Interruptions that follow each other within this time are one event, ms. */
export const GRACE_MS = 2 * MINUTE_MS

/**
 * Reports when nothing was monitored, or when times may be wrong. A power failure is often followed by restarts and by
 * a correction of the clock, so the event is written once none of them has happened for the grace time.
 */
export class Interruptions {
  private readonly startedAt: number
  private lastAt: number
  /** A start, or a change of the clock, is not reported yet. */
  private isPending = true
  private isStart = true
  private jumpMs = 0

  /**
   * @param steady a clock that nobody can set, ms
   */
  constructor(
    private readonly db: Database,
    private readonly clock: Clock,
    private readonly graceMs = GRACE_MS,
    private readonly steady = () => performance.now(),
  ) {
    this.startedAt = steady()
    this.lastAt = this.startedAt
  }

  /** @param jumpMs by how much the clock was changed, ahead above 0 */
  clockChanged(jumpMs: number): void {
    this.jumpMs += jumpMs
    this.lastAt = this.steady()
    this.isPending = true
  }

  /** Reports what is pending and past the grace time, and marks that the server is running. */
  async look(): Promise<void> {
    // The mark stays: if the server stops within the grace time, its next start reports all of it.
    if (this.isPending && this.steady() - this.lastAt < this.graceMs) return
    const at = new Date(this.clock.now())
    await this.db.transaction(async (tx) => {
      if (this.isPending) await this.report(tx, at.getTime())
      await tx.insert(workMarks).values({ at }).onConflictDoUpdate({ target: workMarks.id, set: { at } })
    })
    this.isPending = false
    this.isStart = false
    this.jumpMs = 0
  }

  private async report(tx: Transaction, now: number): Promise<void> {
    const [mark] = await tx.select().from(workMarks)
    const since = mark?.at.getTime() ?? null
    const startedAt = now - (this.steady() - this.startedAt) * this.clock.rate
    if (this.isStart && since !== null && startedAt - since >= OFF_MS) {
      const value = (startedAt - since) / MINUTE_MS
      return recordPastAlarm(tx, { kind: NOT_WATCHED.kind, value, at: since, returnedAt: startedAt })
    }
    // A start before the last mark shows that the clock was set back while the server was off.
    const jump = this.isStart && since !== null && startedAt < since ? startedAt - since : this.jumpMs
    if (Math.abs(jump) < CLOCK_MS) return
    await recordPastAlarm(tx, { kind: CLOCK_CHANGED.kind, value: jump / 1000, at: now, returnedAt: now })
  }
}
