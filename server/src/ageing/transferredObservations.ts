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
  const found = all.filter((c) => isWhole(model, c.characteristic))
  const process = { value: position.processValue, temperature: position.processTemperature }
  let activeCalibration: CalibrationParameters = model.ideal
  let at = 0
  const errorOf = (actual: CalibrationParameters, active: CalibrationParameters) =>
    model.errorAt(actual, active, process, device.setting)
  return found.map((c) => {
    const asFound = errorOf(c.characteristic, activeCalibration)
    // The first of each installation gives the sensor a start rather than an error.
    const first = c.baseline || c.installationId !== at
    at = c.installationId
    if (c.adopted) activeCalibration = c.characteristic
    return {
      visitId: c.visitId,
      at: c.at.getTime(),
      asFound: first ? null : asFound,
      // A device that computes with another temperature than the water's errs by it whatever it is given.
      asLeft: c.adopted ? errorOf(c.characteristic, c.characteristic) : asFound,
      uncertainty: position.tolerance / 5,
      adjusted: c.adopted,
    }
  })
}
