import { type CalibrationParameters, type DriftObservation, isWhole, modelOf } from '@frustum/core'
import { asc, inArray } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { calibrations } from '../database/schema.ts'
import type { Installed } from '../sensors.ts'

/**
 * The errors that a sensor's calibrations tell for another water than the one they were made for: slope and zero are
 * the sensor's own wherever it is. Checks in the old water cannot tell, and are left out.
 * @param installationIds where the calibrations were made
 * @param there position and device for which the errors are wanted
 */
export async function transferredObservations(
  db: Database,
  installationIds: readonly number[],
  { position, device }: Pick<Installed, 'position' | 'device'>,
): Promise<(DriftObservation & { visitId: string | null })[]> {
  if (installationIds.length === 0) return []
  const model = modelOf(position.kind)
  const all = await db
    .select()
    .from(calibrations)
    .where(inArray(calibrations.installationId, [...installationIds]))
    .orderBy(asc(calibrations.at))
  const process = { value: position.processValue, temperature: position.processTemperature }
  // Null as long as nobody knows what the device computes with.
  let active: CalibrationParameters | null = null
  let at = 0
  return all.flatMap((c) => {
    // Another installation's device is another device.
    const first = c.baseline || c.installationId !== at
    if (c.installationId !== at) active = null
    at = c.installationId
    // Behind a display whose device's calibration was unknown, found and held tell the errors all the same.
    const found = c.relative?.found ?? (isWhole(model, c.characteristic) ? c.characteristic : null)
    const errorBy = (held: CalibrationParameters | null) =>
      held && found ? model.errorAt(found, held, process, device.setting) : null
    const asFound = errorBy(c.relative?.held ?? active)
    if (c.adopted) active = c.relative ? null : found
    // A device that computes with another temperature than the water's errs by it whatever it is given.
    const asLeft = c.adopted ? errorBy(found) : asFound
    if (asLeft === null) return []
    return [
      {
        visitId: c.visitId,
        at: c.at.getTime(),
        asFound: first ? null : asFound,
        asLeft,
        uncertainty: position.tolerance / 5,
        adjusted: c.adopted,
      },
    ]
  })
}
