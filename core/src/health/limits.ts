import type { AgeingSeries } from '../drift/endOfLife.ts'
import type { CalibrationParameters, SensorKind } from '../measurement/measurementModel.ts'

/** What a sensor's health is told from at one visit. */
export interface AgeingVisit {
  at: number
  characteristic: CalibrationParameters | null
  settlingSeconds: number | null
}

/** Below this slope a pH electrode or an ion tip is replaced, % of ideal; common practice, no source. */
const LEAST_SLOPE: Partial<Record<SensorKind, number>> = { ph: 85, ion: 80 }
/** Beyond this zero a pH electrode is replaced, mV; common practice, no source. */
const GREATEST_ZERO = 60
/** A sensor that takes so many times as long as it used to is no longer worth waiting for; common practice, no source. */
const SLOWEST = 4
const BASELINE_VISITS = 4

/** The numbers of a sensor that age towards a limit, oldest first. */
export function ageingSeries(kind: SensorKind, visits: readonly AgeingVisit[]): AgeingSeries[] {
  const points = (of: (v: AgeingVisit) => number | null | undefined) =>
    visits.flatMap((v) => {
      const value = of(v)
      return value === null || value === undefined ? [] : [{ at: v.at, value }]
    })
  const series: AgeingSeries[] = []
  const limit = LEAST_SLOPE[kind]
  if (limit !== undefined) {
    series.push({
      name: 'slope',
      unit: '%',
      decimals: 1,
      limit,
      dies: 'below',
      points: points((v) => v.characteristic && 100 * (v.characteristic.slopeEfficiency ?? Number.NaN)),
    })
  }
  if (kind === 'ph') {
    const zeros = points((v) => v.characteristic?.zero)
    const upwards = (zeros.at(-1)?.value ?? 0) >= (zeros[0]?.value ?? 0)
    series.push({
      name: 'zero',
      unit: 'mV',
      decimals: 1,
      limit: upwards ? GREATEST_ZERO : -GREATEST_ZERO,
      dies: upwards ? 'above' : 'below',
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
      dies: 'above',
      points: settling,
    })
  }
  return series
}
