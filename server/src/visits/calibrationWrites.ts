import type { Clock } from '@frustum/contract'
import {
  type CalibrationParameters,
  differingParameters,
  type GivenCalibration,
  heldOf,
  keyedCalibration,
  resultToApply,
} from '@frustum/core'
import { eq, isNull, sql } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { calibrationWrites } from '../database/schema.ts'
import { writeDeviceCalibration } from '../devices/deviceCalibration.ts'
import type { Links } from '../devices/links.ts'
import { Problem } from '../problem.ts'
import { type OpenedVisit, openVisit } from '../records/openVisit.ts'
import type { Actor } from './actor.ts'
import { appendEntry } from './append.ts'

type Write = typeof calibrationWrites.$inferSelect

/** How often a device is asked again that has not said what it holds, ms. */
const ASK_EVERY_MS = 5000

/**
 * Writes calibrations to devices: the intent is on disk before the device is asked, and the outcome is recorded whoever
 * has the visit by then. An intent without an outcome, as a cut leaves it, is settled by what the device holds.
 */
export class CalibrationWrites {
  /** Visits in which one is under way in this process. */
  readonly #underWay = new Set<string>()
  readonly #db: Database
  readonly #links: Links
  readonly #clock: Clock

  constructor(db: Database, links: Links, clock: Clock) {
    this.#db = db
    this.#links = links
    this.#clock = clock
  }

  /** @throws Problem 409 while a calibration is on its way to the device */
  refuseWhileWriting(visitId: string): void {
    if (!this.#underWay.has(visitId)) return
    throw new Problem(409, 'being-written', 'The calibration is being written to the device.', {
      hint: 'Wait a moment, then look again.',
    })
  }

  /**
   * @param accepts called with the visit, its row locked: refuses where it may not be written now
   * @returns the visit with the outcome. @throws Problem where the device does not hold what was wanted
   */
  async write(visitId: string, actor: Actor, accepts: (visit: OpenedVisit) => void): Promise<OpenedVisit> {
    this.refuseWhileWriting(visitId)
    this.#underWay.add(visitId)
    try {
      const [intent, opened] = await this.#intend(visitId, actor, accepts)
      const write = this.#links.link(opened.setup.position)?.calibration?.write
      if (!write) {
        await this.#settle(intent, null)
        throw new Problem(409, 'not-writable', "This device can't be written over its connection.", {
          hint: 'Key the numbers in on the device.',
        })
      }
      try {
        return await this.#settle(
          intent,
          await writeDeviceCalibration(write, opened.progress.evidence.model, intent.wanted),
        )
      } catch (problem) {
        // The device may have taken it before it went silent.
        const settled = await this.#readBack(intent, opened)
        if (settled) return settled
        throw problem
      }
    } finally {
      this.#underWay.delete(visitId)
    }
  }

  /** Settles what a cut left open, as soon as each device answers. Returns the way to stop it. */
  settleAll(): () => void {
    let settling = false
    const timer = setInterval(async () => {
      if (settling) return
      settling = true
      await this.settle().catch(() => undefined)
      settling = false
    }, ASK_EVERY_MS)
    timer.unref()
    return () => clearInterval(timer)
  }

  /** Asks the devices of what a cut left open what they hold. */
  async settle(): Promise<void> {
    const open = await this.#db.select().from(calibrationWrites).where(isNull(calibrationWrites.settledAt))
    for (const intent of open) {
      if (this.#underWay.has(intent.visitId)) continue
      await this.#readBack(intent, await openVisit(this.#db, intent.visitId))
    }
  }

  #intend(visitId: string, actor: Actor, accepts: (visit: OpenedVisit) => void): Promise<[Write, OpenedVisit]> {
    return this.#db.transaction(async (tx) => {
      await tx.execute(sql`select id from visits where id = ${visitId} for update`)
      const opened = await openVisit(tx, visitId)
      accepts(opened)
      const result = resultToApply(opened)
      // One that a cut left open is superseded: the device is written again.
      await tx
        .update(calibrationWrites)
        .set({ settledAt: new Date(this.#clock.now()), problem: 'Written again.' })
        .where(sql`visit_id = ${visitId} and settled_at is null`)
      const [intent] = await tx
        .insert(calibrationWrites)
        .values({
          visitId,
          at: new Date(this.#clock.now()),
          operator: actor.operator,
          actionId: actor.actionId ?? null,
          fingerprint: actor.fingerprint ?? null,
          wanted: keyedCalibration(result),
        })
        .returning()
      return [intent as Write, opened]
    })
  }

  /** @returns the visit where the device holds what was wanted; null where it does not, or does not answer */
  async #readBack(intent: Write, { setup, progress }: OpenedVisit): Promise<OpenedVisit | null> {
    const held = await this.#links
      .link(setup.position)
      ?.calibration?.read()
      .catch(() => null)
    if (!held) return null
    const differs = differingParameters(progress.evidence.model, held, intent.wanted).length > 0
    const settled = await this.#settle(intent, differs ? null : held)
    return differs ? null : settled
  }

  /** Records what came of it, in the name of whoever began it. @param held null where the device does not hold it */
  #settle(intent: Write, held: CalibrationParameters | null): Promise<OpenedVisit> {
    return this.#db.transaction(async (tx) => {
      await tx.execute(sql`select id from visits where id = ${intent.visitId} for update`)
      const opened = await openVisit(tx, intent.visitId)
      const isOpen = !opened.row.closedAt && opened.progress.current?.key === 'apply'
      const problem = held === null ? 'The device holds other numbers.' : isOpen ? null : 'The visit had moved on.'
      await tx
        .update(calibrationWrites)
        .set({ settledAt: new Date(this.#clock.now()), problem })
        .where(eq(calibrationWrites.id, intent.id))
      if (held === null || !isOpen) return opened
      const given: GivenCalibration = {
        way: 'link',
        characteristic: heldOf(held, intent.wanted),
        readBack: held,
        shownAfter: null,
      }
      const { operator, actionId, fingerprint } = intent
      const author = { clientId: '', operator, actionId: actionId ?? undefined, fingerprint: fingerprint ?? undefined }
      return appendEntry(tx, opened, author, { type: 'applied', ...given }, this.#clock.now())
    })
  }
}
