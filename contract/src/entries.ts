import type { Decision, PhStepKey, SettlingSignature, StabilityReason, StabilityState } from '@frustum/core'

/** How a device is reached. Further protocols add further kinds. */
export interface ModbusLinkSettings {
  kind: 'modbus-tcp'
  host: string
  port: number
  unit: number
}
export type LinkSettings = ModbusLinkSettings

export interface LotTable {
  temperatures: number[]
  values: number[]
}

/** A settled reading, as kept. */
export interface CapturedReading {
  /** mV; worked back through the calibration in force where the device shows pH only. */
  millivolts: number
  /** Half-width of its 95 % interval. */
  millivoltsUncertainty: number
  temperature: number
  /** What the device showed, pH. */
  shown: number
  stability: { state: StabilityState; reason: StabilityReason; seconds: number; confidence: number }
  /** Set when taken before it was stable. */
  earlyReason?: string
  /** At most 80 points of the trace: seconds, mV or pH as judged. */
  trace: [number, number][]
  signature: SettlingSignature | null
  standard?: {
    code: string
    value: number
    lot: string | null
    expired: boolean
    openTooLong: boolean
    daysOver: number
  }
}

/** One line of a visit's record. Never changed once written; a later line may supersede it. */
export type VisitEntry =
  | { type: 'done'; step: PhStepKey }
  | { type: 'skipped'; step: PhStepKey; reason: string }
  | { type: 'captured'; step: PhStepKey; reading: CapturedReading }
  | { type: 'typed'; step: PhStepKey; value: number; temperature: number }
  | { type: 'redo'; step: PhStepKey; reason: string }
  | { type: 'went-on' }
  | { type: 'decided'; step: 'result' | 'verdict'; decision: Decision; proposed: Decision; note: string | null }
  | { type: 'applied'; way: 'link' | 'keyed'; slopeEfficiency: number; zero: number; shownAfter: number | null }
  | { type: 'taken-over'; from: string }
  | { type: 'abandoned'; reason: string }
