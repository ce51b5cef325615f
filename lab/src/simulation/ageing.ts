import { requireWithin } from '../../../core/src/quantities/outOfRange.ts'
import type { RandomStream } from '../../../core/src/statistics/random.ts'
import type { ElectrodeTruth } from './phElectrodeSimulation.ts'
import type { ConductivityTruth, IonTruth, OrpTruth } from './sensors.ts'

/** How hard a sensor's life is. Common practice, no source; the figures are for playing, not for forecasting. */
export interface Exposure {
  /** Drift of the reference, mV per day, with its sign. */
  referenceDrift: number
  /** Random walk of the reference, mV per square root of a day. */
  referenceWalk: number
  /** Loss of slope, share per day. */
  slopeLoss: number
  /** Growth of a layer: mV per day on glass, share per day on a cell. */
  coating: number
  /** Growth of the response times, share per day. */
  slowing: number
}

export const MILD_EXPOSURE: Exposure = {
  referenceDrift: -0.03,
  referenceWalk: 0.25,
  slopeLoss: 0.0001,
  coating: 0.01,
  slowing: 0.001,
}

const slower = <T extends { fastTime: number; slowTime: number; slowShare: number }>(truth: T, growth: number): T => ({
  ...truth,
  fastTime: truth.fastTime * growth,
  slowTime: truth.slowTime * growth,
  slowShare: Math.min(0.5, truth.slowShare * growth),
})

function step(exposure: Exposure, days: number, random: RandomStream) {
  requireWithin('Days', days, 0, 4000)
  return {
    reference: exposure.referenceDrift * days + exposure.referenceWalk * Math.sqrt(days) * random.normal(),
    slope: Math.exp(-exposure.slopeLoss * days),
    coating: exposure.coating * days,
    growth: Math.exp(exposure.slowing * days),
  }
}

/** A pH electrode some days later. */
export function agePhElectrode(
  truth: ElectrodeTruth,
  exposure: Exposure,
  days: number,
  random: RandomStream,
): ElectrodeTruth {
  const { reference, slope, coating, growth } = step(exposure, days, random)
  return {
    ...slower(truth, growth),
    zero: truth.zero + reference,
    slopeEfficiency: truth.slopeEfficiency * slope,
    coating: truth.coating + coating,
  }
}

/** An ORP sensor some days later: only its reference ages. */
export function ageOrpSensor(truth: OrpTruth, exposure: Exposure, days: number, random: RandomStream): OrpTruth {
  const { reference, growth } = step(exposure, days, random)
  return { ...slower(truth, growth), offset: truth.offset + reference }
}

/** An ion electrode some days later: reference and tip. */
export function ageIonElectrode(truth: IonTruth, exposure: Exposure, days: number, random: RandomStream): IonTruth {
  const { reference, slope, growth } = step(exposure, days, random)
  const { electrode } = truth
  return {
    ...slower(truth, growth),
    electrode: {
      ...electrode,
      zero: electrode.zero + reference,
      slopeEfficiency: electrode.slopeEfficiency * slope,
    },
  }
}

/** A conductivity cell some days later: it fouls, and its constant hardly moves. */
export function ageConductivitySensor(truth: ConductivityTruth, exposure: Exposure, days: number): ConductivityTruth {
  requireWithin('Days', days, 0, 4000)
  return { ...truth, coating: Math.min(0.95, 1 - (1 - truth.coating) * Math.exp(-exposure.coating * days)) }
}
