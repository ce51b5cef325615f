import type { VisitSettings } from '@frustum/contract'
import { modelOf, type Setup } from '@frustum/core'
import { and, eq, isNull, ne } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { devices, installations, positions } from '../database/schema.ts'
import type { LiveValues } from '../links/liveValues.ts'
import { calibrationInForce, type Installed, lastFound, pastSettling, practicesAt } from '../sensors.ts'
import { lotFor } from '../shelf/lots.ts'

/**
 * What a procedure has to know of a visit beyond its record. All of it as it was when the visit began: errors as found
 * are against the calibration that was in force then, not the one that the visit makes.
 */
export async function setupOf(
  db: Database,
  live: LiveValues | null,
  installed: Installed,
  settings: VisitSettings,
  { startedAt, now }: { startedAt: Date; now: number },
): Promise<Setup> {
  const { installation, position } = installed
  const past = await pastSettling(db, installation.id, startedAt)
  const standards: Record<string, Setup['standards'][string]> = {}
  for (const [role, code] of Object.entries(settings.standards)) {
    const lot = await lotFor(db, code, now)
    standards[role] = {
      code,
      lotTable: lot?.row.ownTable ?? undefined,
      lot: lot && { lot: lot.lot, expired: lot.expired, openTooLong: lot.openTooLong, daysOver: lot.daysOver },
    }
  }
  return {
    ...standingFacts(installed),
    activeCalibration: await calibrationInForce(db, installation.id, position.kind, startedAt),
    previous: await lastFound(db, installation.id, startedAt),
    standards,
    practices: await practicesAt(db, startedAt),
    settlingHistory: past.seconds,
    twins: live ? await twinsOf(db, live, installed) : [],
  }
}

/** What a procedure has to know of position and device: the same at every visit. */
export function standingFacts({ position, device }: Installed) {
  return {
    kind: position.kind,
    position: position.code,
    processValue: position.processValue,
    processTemperature: position.processTemperature,
    tolerance: position.tolerance,
    device: device.setting,
    shows: device.shows,
    linked: device.link !== null,
    writable: device.writable,
    authorityRule: position.authorityRule,
  }
}

/** Other sensors of the kind in the same water, as they read now. */
async function twinsOf(db: Database, live: LiveValues, { position, device: own }: Installed): Promise<Setup['twins']> {
  if (!position.water) return []
  const rows = await db
    .select({ position: positions, device: devices })
    .from(positions)
    .innerJoin(installations, eq(installations.positionId, positions.id))
    .innerJoin(devices, eq(installations.deviceId, devices.id))
    .where(
      and(
        eq(positions.water, position.water),
        eq(positions.kind, position.kind),
        ne(positions.id, position.id),
        isNull(installations.removedAt),
      ),
    )
  return rows.flatMap(({ position: twin, device }) => {
    const { shown } = live.current(twin.code)
    const { errorScale, shownScale } = modelOf(twin.kind)
    if (shown === null || shownScale(device.setting).unit !== shownScale(own.setting).unit) return []
    const uncertainty = errorScale.unit === '%' ? (Math.abs(shown) * twin.tolerance) / 200 : twin.tolerance / 2
    return [{ position: twin.code, value: shown, uncertainty }]
  })
}
