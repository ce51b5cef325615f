import type { Logger } from 'pino'
import type { Database } from '../database/open.ts'
import { readings } from '../database/schema.ts'
import { lookAtAllNumbers } from '../links/deviceNumbers.ts'
import { type LiveValues, STALE_AFTER_MS } from '../links/liveValues.ts'
import { installedSensors } from '../sensors.ts'

const EVERY_MS = 10 * 60_000

/**
 * Keeps one process reading of each linked sensor every ten minutes, and looks whether its device still reckons with the
 * numbers it was given. Returns the way to stop it.
 */
export function recordReadings(db: Database, live: LiveValues, log: Logger): () => void {
  const record = async () => {
    const now = Date.now()
    const installed = await installedSensors(db)
    await lookAtAllNumbers(db, live, installed)
    const rows = installed.flatMap(({ installation, position }) => {
      const value = live.current(position.code)
      if (value.at === null || value.shown === null || value.temperature === null || now - value.at > STALE_AFTER_MS)
        return []
      return [
        {
          installationId: installation.id,
          at: new Date(value.at),
          shown: value.shown,
          signal: value.signal,
          temperature: value.temperature,
        },
      ]
    })
    if (rows.length > 0) await db.insert(readings).values(rows)
  }
  const timer = setInterval(() => void record().catch((error) => log.error(error, 'readings not kept')), EVERY_MS)
  return () => clearInterval(timer)
}
