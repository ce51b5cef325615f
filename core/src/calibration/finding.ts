import type { Sentence } from '../quantities/sentence.ts'

export type Severity = 'note' | 'warn' | 'stop'

export type FindingCode =
  | 'standards-swapped'
  | 'same-standard-twice'
  | 'points-too-close'
  | 'no-response'
  | 'wrong-sign'
  | 'slope-low'
  | 'slope-ageing'
  | 'slope-high'
  | 'zero-watch'
  | 'zero-beyond'
  | 'segments-disagree'
  | 'temperatures-apart'
  | 'temperature-implausible'
  | 'lot-expired'
  | 'lot-open-too-long'
  | 'wrong-standard'
  | 'unit-slip'
  | 'left-over-value'
  | 'taken-early'
  | 'slow-response'
  | 'change-larger-than-drift'
  | 'gap-outside'
  | 'cell-not-dry'
  | 'factor-beyond'
  | 'sample-too-old'
  | 'flow-off'
  | 'result-below-floor'
  | 'correction-implausible'
  | 'thermometers-disagree'
  | 'wrong-compensation'
  | 'wrong-temperature-input'
  | 'temperature-unstable'
  | 'results-disagree'
  | 'beaker-right-tank-wrong'
  | 'light-on'
  | 'carried-over'
  | 'device-refused'
  | 'key-without-effect'
  | 'diagnosed'
  | 'repeats'
  | 'instrument-stale'
  | 'repeats-apart'
  | 'calibration-unknown'
  | 'ph-decides'

export interface Finding {
  code: FindingCode
  severity: Severity
  /** What was found, in a plain sentence. */
  sentence: Sentence
  /** What to do about it. */
  advice: Sentence
  /** The numbers behind it, by name with unit. */
  numbers: Record<string, number>
}

/** What is known of a lot when a point is taken from it. */
export interface LotFacts {
  lot: string
  expired: boolean
  openTooLong: boolean
  daysOver: number
}
