import type {
  AssumedTemperature,
  BenchView,
  FieldSpec,
  NextDate,
  Quantity,
  Scale,
  SensorKind,
  Sentence,
} from '@frustum/core'
import type { TypedBounds } from '../typedNumber.ts'

/** What can be begun at a position, and what speaks against it. */
export interface StartingView {
  position: string
  positionId: number
  occupied: boolean
  place: string
  spot: string
  kind: SensorKind
  quantity: string
  cautions: readonly string[]
  authorityRule: string | null
  process: Quantity
  tolerance: Quantity
  setting: string
  /** Warning that the calibration in the device differs from the record; null where it does not. */
  numbersChanged: Sentence | null
  procedures: {
    id: string
    name: string
    summary: string
    needs: string
    minutes: number
    roles: { role: string; label: string; choices: string[]; pours: number }[]
    opening: readonly FieldSpec[]
    /** Proposed for the state this sensor is in. */
    proposed: boolean
    /** Sensors that should be calibrated before, with their page to start. */
    unmet: { position: string; since: number | null; why: string }[]
  }[]
  lots: Record<string, LotOnStep | null>
  /** The procedure of the last visit, where it can be repeated. */
  last: string | null
}

export interface LotOnStep {
  lot: string
  expired: boolean
  openTooLong: boolean
  daysOver: number
  /** mL left by the book. */
  left: number
  storage: string
  /** Not opened yet. */
  closed: boolean
}

export interface VisitView extends Omit<BenchView, 'hazards' | 'asFound' | 'asLeft'> {
  id: string
  position: string
  place: string
  spot: string
  kind: SensorKind
  quantity: string
  procedure: string
  procedureName: string
  trip: string | null
  operator: string
  startedAt: number
  closedAt: number | null
  outcome: 'done' | 'abandoned' | null
  holder: { clientId: string; name: string; since: number } | null
  current: string | null
  /** Cautions that apply here for the first time in this visit. */
  cautions: readonly string[]
  authorityRule: string | null
  linked: boolean
  /** Whether the numbers of the device can be read over its line. */
  readsBack: boolean
  /** When its line was changed while it was open, and the readings that came over the one before; null where it was not. */
  lineChanged: { at: number; steps: { key: string; label: string }[] } | null
  writable: boolean
  deviceShows: 'signal' | 'value'
  setting: string
  scale: Scale
  /** The temperature that is taken where none is typed at the step at hand; null where it has to be read. */
  assumedTemperature: AssumedTemperature | null
  /** What the device computes with where its temperature is set by hand, degC; null where it measures. */
  fixedTemperature: number | null
  /** What the display takes on when numbers are keyed in. */
  display: TypedBounds
  typing: TypedBounds
  standards: Record<string, string>
  /** The lot to pour from at this step. */
  lot: LotOnStep | null
  /** Once closed. */
  summary: { asFound: Quantity | null; asLeft: Quantity | null; next: NextDate | null } | null
  /** How many lines the record has that this view shows. */
  revision: number
}

export type { VisitLive } from '@frustum/core'
