import type { FindingCode } from '../calibration/finding.ts'
import { modelOf } from '../kinds/index.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { isWhole } from '../measurement/wholeCalibration.ts'
import { heldFor, type RelativeCalibration, relativeOf } from '../procedures/heldCalibration.ts'
import { toldOf } from '../procedures/pastProcedure.ts'
import type { Observation, Procedure, VisitState } from '../procedures/procedure.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { observationOf, resultFindings } from '../visits/visitView.ts'
import { type PastCalibration, type PastSetup, type PastVisit, pastVisit } from './pastVisit.ts'

/** What a sensor was found to be at a visit; `adopted` where the device computes with it since. */
export interface FoundThen {
  characteristic: CalibrationParameters
  /** Half-widths of the 95 % intervals. */
  uncertainty: CalibrationParameters
  adopted: boolean
  relative: RelativeCalibration | null
}

/** What is known of a sensor already, oldest first. */
export interface KnownHistory {
  calibrations: readonly { at: number; characteristic: CalibrationParameters; adopted: boolean }[]
  observations: readonly { at: number; asLeft: number }[]
}

export interface TakenVisit extends PastVisit {
  found: FoundThen | null
  observation: Observation | null
  findings: readonly FindingCode[] | null
  /** How the visit before left it. */
  before: { at: number; asLeft: number } | undefined
}

/**
 * Calibrations of the past of one sensor, each judged by what its device computed with since the one before.
 * @param standing the position and its device, as far as they are known now
 * @param past oldest first
 * @returns one for each, in their order: a visit, or what is wrong with it
 */
export function pastSeries(
  standing: Omit<PastSetup, 'activeCalibration' | 'unknownParameters' | 'previous'>,
  known: KnownHistory,
  past: readonly PastCalibration[],
): (TakenVisit | { problem: string })[] {
  const calibrations = [...known.calibrations]
  const observations = [...known.observations]
  const before = <T extends { at: number }>(list: readonly T[], at: number) =>
    list
      .filter((one) => one.at < at)
      .reduce<T | undefined>((last, one) => (last && last.at > one.at ? last : one), undefined)
  return past.map((one) => {
    const inForce = before(
      calibrations.filter((c) => c.adopted),
      one.at,
    )
    const last = before(
      calibrations.filter((c) => isWhole(modelOf(standing.kind), c.characteristic)),
      one.at,
    )
    const taken = pastVisit(
      {
        ...standing,
        ...heldFor(modelOf(standing.kind), inForce?.characteristic ?? {}, standing),
        previous: last ? { characteristic: last.characteristic, at: last.at } : null,
      },
      one,
    )
    if ('problem' in taken) return taken
    const { procedure, progress } = taken
    const found = foundAt(procedure, progress.evidence)
    const observation = observationOf(procedure, progress.evidence)
    const visit = {
      ...taken,
      found,
      observation,
      findings: resultFindings(procedure, progress.evidence),
      before: before(observations, one.at),
    }
    if (found) calibrations.push({ at: one.at, characteristic: found.characteristic, adopted: found.adopted })
    if (observation) observations.push({ at: one.at, asLeft: observation.asLeft })
    return visit
  })
}

export function foundAt(procedure: Procedure, evidence: VisitState): FoundThen | null {
  const found = nullIfOutOfRange(() => procedure.judge(evidence, 'result'))?.found ?? null
  const worked = evidence.applied?.characteristic ?? found?.characteristic
  if (!worked) return null
  const characteristic = toldOf(evidence, worked)
  const uncertainty = Object.fromEntries(
    Object.entries(found?.uncertainty ?? {}).filter(([key]) => characteristic[key] !== undefined),
  )
  const relative = relativeOf(evidence, worked, characteristic)
  return { characteristic, uncertainty, adopted: evidence.applied !== null, relative }
}
