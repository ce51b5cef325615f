import { setTimeout } from 'node:timers/promises'
import type { Sentence } from '@frustum/core'
import type { ServerContext } from '../context.ts'
import { deliver, forgetMessages } from './queue.ts'
import { currentRecipients } from './settings.ts'
import { siteText } from './siteText.ts'
import { tellOfAlarms } from './toldOfAlarms.ts'
import { tellOfDue } from './toldOfDue.ts'

/** How often alarms are looked at and messages sent, ms; what is due less often, ms of the site's clock. */
const LOOK_EVERY_MS = 1000
const DUE_EVERY_MS = 30_000
/** How long the end of the server waits for a message that is being sent, ms. */
const STOP_WITHIN_MS = 3000

interface Telling {
  /** Address under which recipients may reach the server, once there is one. */
  ownAddress: () => string | null
  /** What is wrong with the backups, if anything. */
  backupWarning: () => Promise<Sentence | null>
}

/**
 * Tells people of alarms and of what is due, from a queue that outlives the server. Returns the way to stop it.
 */
export function startTelling(
  { db, clock, log }: Pick<ServerContext, 'db' | 'clock' | 'log'>,
  { ownAddress, backupWarning }: Telling,
): () => Promise<void> {
  let dueAt = Number.NEGATIVE_INFINITY
  let running: Promise<void> | null = null
  const look = async () => {
    const recipients = await currentRecipients(db)
    if (recipients.length === 0) return
    const site = await siteText(db)
    if (!site) return
    const now = clock.now()
    await tellOfAlarms(db, recipients, site, now)
    if (Math.abs(now - dueAt) >= DUE_EVERY_MS) {
      dueAt = now
      await tellOfDue(db, recipients, site, { now, backupWarning })
      await forgetMessages(db, now)
    }
    await deliver(db, now, ownAddress())
  }
  const timer = setInterval(() => {
    running ??= look()
      .catch((error) => log.error({ err: error }, 'nobody told'))
      .finally(() => {
        running = null
      })
  }, LOOK_EVERY_MS)
  return async () => {
    clearInterval(timer)
    // A mail server that doesn't answer must not hold up the end; what it got is sent again, under the same id.
    await Promise.race([running, setTimeout(STOP_WITHIN_MS, undefined, { ref: false })])
  }
}
