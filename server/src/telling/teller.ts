import type { ServerContext } from '../context.ts'
import { deliver, forgetMessages } from './queue.ts'
import { currentRecipients } from './settings.ts'
import { siteText } from './siteText.ts'
import { tellOfAlarms } from './toldOfAlarms.ts'
import { tellOfDue } from './toldOfDue.ts'

/** How often alarms are looked at and messages sent, ms; what is due is looked at less often. */
const LOOK_EVERY_MS = 1000
const DUE_EVERY = 30

/** Tells people of alarms and of what is due, from a queue that outlives the server. Returns the way to stop it. */
export function startTelling({ db, clock, log }: Pick<ServerContext, 'db' | 'clock' | 'log'>): () => Promise<void> {
  let turn = 0
  let running: Promise<void> | null = null
  const look = async () => {
    const recipients = await currentRecipients(db)
    if (recipients.length === 0) return
    const site = await siteText(db)
    if (!site) return
    const now = clock.now()
    await tellOfAlarms(db, recipients, site, now)
    if (turn++ % DUE_EVERY === 0) {
      await tellOfDue(db, recipients, site, now)
      await forgetMessages(db, now)
    }
    await deliver(db, now)
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
    await running
  }
}
