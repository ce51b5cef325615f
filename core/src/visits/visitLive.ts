import type { Finding } from '../calibration/finding.ts'
import type { ArithmeticLine } from '../procedures/procedure.ts'
import type { Quantity } from '../quantities/sentence.ts'
import type { StabilityOpinion } from '../stability/opinion.ts'
import type { TracePoint } from './trace.ts'

/** What the step at hand shows of the reading now. */
export interface VisitLive {
  step: string | null
  at: number
  blindSince: number | null
  /** The number to read at two metres, in `unit`. */
  value: number | null
  unit: string
  decimals: number
  /** What the device shows, where that is another number. */
  shown: number | null
  shownUnit: string
  shownDecimals: number
  temperature: number | null
  /** How closely the end is wanted. */
  wanted: Quantity
  opinion: StabilityOpinion | null
  /** Whether the reading may be kept as it is, without a reason. */
  taken: boolean
  /** Seconds into the step and value: all points with the first message of a step, then only the new ones. */
  trace: TracePoint[]
  fresh: boolean
  /** How far readings of the line are apart, s, where that is too far to see it settle; null where it is not. */
  everySeconds: number | null
  /** The line does not say how warm it is, and it has to be typed. */
  needsTemperature: boolean
  finding: Finding | null
  /** False as long as the sensor has not moved since the step asked for another solution. */
  arrived: boolean
  arithmetic: ArithmeticLine[]
  /** How many lines the record has: a view of fewer is out of date. */
  revision: number
}

/** What is asked of a step about the reading now. */
export interface LiveRequest {
  /** Epoch ms. */
  now: number
  /** Since when the device has not answered, epoch ms; null where it does. */
  blindSince: number | null
  /** Lines of the record. */
  revision: number
  /** All points of the trace, or those that are new since the last message. */
  wholeTrace: boolean
}
