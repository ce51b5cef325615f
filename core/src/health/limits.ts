import type { AgeingSeries } from '../drift/endOfLife.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import type { HealthTraits } from './healthTraits.ts'

/** What a sensor's health is told from at one visit. */
export interface AgeingVisit {
  at: number
  characteristic: CalibrationParameters | null
  settlingSeconds: number | null
}

/** A sensor that takes so many times as long as it used to is no longer worth waiting for; common practice, no source. */
const SLOWEST = 4
const BASELINE_VISITS = 4
/** How widely one visit scatters, as a share of the way from new to the limit, and of a settling time; common practice, no source. */
const SCATTER = 0.03
const IDEAL_SLOPE = 100
const SETTLING_SCATTER = 0.25

/**
 * The numbers of a sensor that age towards a limit, oldest first.
 * @param changedAt epoch ms of events that made it another sensor
 */
export function ageingSeries(
  traits: HealthTraits,
  visits: readonly AgeingVisit[],
  changedAt: readonly number[] = [],
): AgeingSeries[] {
  const points = (of: (v: AgeingVisit) => number | null | undefined) =>
    visits.flatMap((v) => {
      const value = of(v)
      return value === null || value === undefined ? [] : [{ at: v.at, value }]
    })
  const series: AgeingSeries[] = []
  const { leastSlope, greatestZero, slopeKey, zeroKey } = traits
  if (leastSlope !== null && slopeKey !== null) {
    series.push({
      name: 'slope',
      unit: '%',
      decimals: 1,
      limit: leastSlope,
      dies: 'below',
      fresh: IDEAL_SLOPE,
      readSd: SCATTER * (IDEAL_SLOPE - leastSlope),
      points: points((v) => v.characteristic && 100 * (v.characteristic[slopeKey] ?? Number.NaN)),
    })
  }
  if (greatestZero !== null && zeroKey !== null) {
    const zeros = points((v) => v.characteristic?.[zeroKey])
    const upwards = (zeros.at(-1)?.value ?? 0) >= (zeros[0]?.value ?? 0)
    series.push({
      name: 'zero',
      unit: 'mV',
      decimals: 1,
      limit: upwards ? greatestZero : -greatestZero,
      dies: upwards ? 'above' : 'below',
      fresh: 0,
      readSd: SCATTER * greatestZero,
      points: zeros,
    })
  }
  const settling = points((v) => v.settlingSeconds)
  if (settling.length > BASELINE_VISITS) {
    const baseline = settling.slice(0, BASELINE_VISITS).reduce((sum, p) => sum + p.value, 0) / BASELINE_VISITS
    series.push({
      name: 'settling time',
      unit: 's',
      decimals: 0,
      limit: SLOWEST * baseline,
      limitSd: (SLOWEST * baseline * SETTLING_SCATTER) / Math.sqrt(BASELINE_VISITS),
      dies: 'above',
      fresh: baseline,
      readSd: SETTLING_SCATTER * baseline,
      byRatio: true,
      points: settling,
    })
  }
  return series.map((one) => ({ ...one, changedAt }))
}
