import type { ServerContext } from '../context.ts'
import { readings } from '../database/schema.ts'
import { checkAllDeviceCalibrations } from '../links/deviceCalibration.ts'
import { installedSensors } from '../sensors.ts'

const EVERY_MS = 10 * 60_000

/**
 * Keeps one process reading of each linked sensor every ten minutes, and checks that its device still holds the
 * calibration on record. Returns the way to stop it.
 */
export function recordReadings({ db, live, links, clock, log }: ServerContext): () => void {
  const record = async () => {
    const installed = await installedSensors(db)
    await checkAllDeviceCalibrations(db, links, installed, new Date(clock.now()))
    const rows = installed.flatMap(({ installation, position }) => {
      // What a device sends by itself is kept as it comes.
      const reading = links.pushOf([position.id]) ? null : live.latest(position.code)
      if (!reading) return []
      const { at, shown, signal, temperature } = reading
      return [{ installationId: installation.id, at: new Date(at), shown, signal, temperature }]
    })
    if (rows.length > 0) await db.insert(readings).values(rows)
  }
  const timer = setInterval(
    () => void record().catch((error) => log.error(error, 'readings not kept')),
    EVERY_MS / clock.rate,
  )
  return () => clearInterval(timer)
}
