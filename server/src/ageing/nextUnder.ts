import type { RulesBody } from '@frustum/contract'
import { forecastDrift, modelOf, type NextDate, withNumbersChanged } from '@frustum/core'
import type { Database } from '../database/open.ts'
import { numbersChanges } from '../links/deviceCalibration.ts'
import { policyOf } from '../sensorPolicy.ts'
import type { Installed } from '../sensors.ts'
import { cachedForecasts } from './computed.ts'
import { nextDateOf, type SensorForecast } from './forecasts.ts'
import { transferredObservations } from './transferredObservations.ts'

/** The next date under other rules, or at another process value; null where the sensor cannot be computed as it is. */
export async function nextUnder(
  db: Database,
  installed: Installed,
  { processValue = installed.position.processValue, ...changed }: Partial<RulesBody> & { startingDays?: number | null },
  now: number,
): Promise<NextDate | null> {
  const known = (await cachedForecasts(db, now)).get(installed.installation.id)
  if (!known) return null
  const policy = { ...policyOf(installed.position, known.hours), ...changed }
  return nextDateOf(
    processValue === installed.position.processValue ? known : await forecastAt(db, installed, processValue, known),
    policy,
  )
}

/** What would be forecast if the water were at another value: the same electrode errs differently there. */
async function forecastAt(db: Database, installed: Installed, processValue: number, here: SensorForecast) {
  const { id } = installed.installation
  const there = { ...installed, position: { ...installed.position, processValue } }
  const numbers = (await numbersChanges(db, [there])).get(id) ?? []
  const observations = withNumbersChanged(await transferredObservations(db, [id], there), numbers)
  const last = observations.at(-1)?.at
  // Without a calibration nothing is known of the electrode itself.
  if (last === undefined) return here
  return {
    observations,
    forecast: forecastDrift(observations, [], modelOf(there.position.kind).usualDrift),
    changes: numbers.filter((c) => c.at > last),
    happened: here.happened,
  }
}
