import {
  forecastCone,
  leadingFact,
  modelOf,
  ruleFields,
  type Sentence,
  say,
  sensorState,
  shownValue,
} from '@frustum/core'
import { derived } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { policyOf } from '../sensorPolicy.ts'
import { type Installed, installedSensors } from '../sensors.ts'
import { computeForecasts, type Forecasts, nextDateOf, type SensorForecast, siteRevision } from './forecasts.ts'
import { computeHealth, type SensorHealth } from './health.ts'

/** What is forecast of the sensors of a site, and how healthy they are; one that cannot be computed takes no other down. */

interface Partly<T> {
  found: ReadonlyMap<number, T>
  /** What stood against it, by installation. */
  cannot: ReadonlyMap<number, string>
}

/** All at once, as they belong together; where that fails, those that can be computed alone. */
async function partly<T>(
  installed: readonly Installed[],
  compute: (of: readonly Installed[]) => Promise<ReadonlyMap<number, T>>,
): Promise<Partly<T>> {
  try {
    return { found: await compute(installed), cannot: new Map() }
  } catch (error) {
    const cannot = new Map<number, string>()
    for (const one of installed) {
      await compute([one]).catch((why: unknown) => cannot.set(one.installation.id, messageOf(why)))
    }
    // What only fails together is no fault of a sensor.
    if (cannot.size === 0) throw error
    return { found: await compute(installed.filter((i) => !cannot.has(i.installation.id))), cannot }
  }
}

const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))

const forecastsNow = async (db: Database, now: number): Promise<Partly<SensorForecast>> =>
  derived(db, 'forecasts', await siteRevision(db, now), async () =>
    partly(await installedSensors(db), (of) => computeForecasts(db, of, now)),
  )

const healthsNow = async (db: Database, now: number): Promise<Partly<SensorHealth>> =>
  derived(db, 'health', await siteRevision(db, now), async () =>
    partly(await installedSensors(db), (of) => computeHealth(db, of, now)),
  )

/** The forecasts of all installed sensors, pooled by kind; cached, recomputed when the data revision changes, or hourly. */
export const cachedForecasts = async (db: Database, now: number): Promise<Forecasts> =>
  (await forecastsNow(db, now)).found

/** The health of all installed sensors; cached as their forecasts are. */
export const siteHealth = async (db: Database, now: number): Promise<ReadonlyMap<number, SensorHealth>> =>
  (await healthsNow(db, now)).found

/** All of one moment: a sensor that is fit has its forecast and its health here. */
export interface ComputedSensors {
  fit: readonly Installed[]
  forecasts: Forecasts
  healths: ReadonlyMap<number, SensorHealth>
  unfit: readonly { installed: Installed; why: Sentence }[]
}

/** The installed sensors, apart from those of which something cannot be computed: with what stands against it. */
export async function computedSensors(db: Database, now: number): Promise<ComputedSensors> {
  const installed = await installedSensors(db)
  const [forecasts, healths] = await Promise.all([forecastsNow(db, now), healthsNow(db, now)])
  return derived(db, 'computed sensors', [installed, forecasts, healths], () => {
    const against = (i: Installed): string | null => {
      const { id } = i.installation
      return forecasts.cannot.get(id) ?? healths.cannot.get(id) ?? againstDates(i, forecasts.found.get(id), now)
    }
    // One that came or went while this was computed is of the next look.
    const isOf = ({ found, cannot }: Partly<unknown>, id: number) => found.has(id) || cannot.has(id)
    const judged = installed
      .filter(({ installation: { id } }) => isOf(forecasts, id) && isOf(healths, id))
      .map((i) => ({ i, message: against(i) }))
    return {
      forecasts: forecasts.found,
      healths: healths.found,
      fit: judged.filter(({ message }) => message === null).map(({ i }) => i),
      unfit: judged.flatMap(({ i, message }) =>
        message === null ? [] : [{ installed: i, why: whySentence(i, message) }],
      ),
    }
  })
}

/** What keeps its rules from giving a date and a figure. */
function againstDates({ position }: Installed, known: SensorForecast | undefined, now: number): string | null {
  if (!known) return 'Nothing is forecast of it.'
  try {
    const policy = policyOf(position, known.hours)
    const next = nextDateOf(known, policy)
    const cone = forecastCone(known.forecast, position.tolerance, Math.max(next.at, now), 2, known.changes)
    const numbers = [next.at, next.usualDays, ...cone.flatMap((p) => [p.mean, p.low, p.high, p.probabilityInTolerance])]
    if (!numbers.every(Number.isFinite)) return 'Its forecast has no number.'
    sensorState(known.forecast, policy, next, now)
    leadingFact(known.forecast, policy, next, { cause: null, end: null })
    return null
  } catch (error) {
    return messageOf(error)
  }
}

/** The rule that no such sensor can have, if one is there; else what the computation says. */
function whySentence({ position, device }: Installed, message: string): Sentence {
  const { kind, processValue, processTemperature, reliability, ...rules } = position
  const stored: Readonly<Record<string, unknown>> = {
    ...rules,
    processTemperature,
    reliability: 100 * reliability,
    processValue: shownValue(kind, processValue, processTemperature, device.setting),
  }
  const wrong = ruleFields(kind, device.setting).find(({ key, kind: type, low, high, optional }) => {
    if (type !== 'number' || (optional && stored[key] === null)) return false
    const value = stored[key]
    return typeof value !== 'number' || !(value >= (low ?? -Infinity) && value <= (high ?? Infinity))
  })
  return wrong
    ? say`“${wrong.label}” holds what cannot be for ${modelOf(kind).quantity(device.setting)}.`
    : say`${message}`
}
