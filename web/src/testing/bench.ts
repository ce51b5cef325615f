import { displayBounds, type SiteView, typedBounds, type VisitLive, type VisitView } from '@frustum/contract'
import {
  assumedTemperature,
  type CapturedReading,
  difference,
  isTaken,
  kindOf,
  procedureOf,
  type RecordLine,
  readsBack,
  reduceVisit,
  type SensorKind,
  type Setup,
  type StabilityOpinion,
  standardOf,
  USUAL_PRACTICES,
  type VisitEntry,
  viewOfProgress,
} from '@frustum/core'
import { testSetup } from '../../../core/src/procedures/testSetup.ts'

export const NOW = Date.UTC(2026, 10, 23, 12)

export const SITE: SiteView = {
  exists: true,
  name: 'Mill pond',
  timeZone: 'UTC',
  operators: ['S. Osk'],
  extensions: [],
  practices: USUAL_PRACTICES,
  changes: [],
  ownStandards: [],
  keeping: { readingsDays: 400, hoursDays: null },
  readers: {},
  clock: { now: NOW, rate: 1 },
}

interface Walked {
  kind: SensorKind
  procedure: string
  entries?: readonly VisitEntry[]
  setup?: Partial<Setup>
  view?: Partial<VisitView>
}

/** A visit as the server would show it after these entries. */
export function visitAfter({ kind, procedure: id, entries = [], setup: change = {}, view = {} }: Walked): VisitView {
  const procedure = procedureOf(id)
  const setup = testSetup(procedure, kind, { linked: false, writable: false, ...change })
  const lines = entries.map((entry, i): RecordLine => ({ at: NOW - 60_000 * (entries.length - i), entry }))
  const progress = reduceVisit(procedure, setup, NOW - 3_600_000, lines)
  const { hazards: _, asFound, asLeft, ...bench } = viewOfProgress(procedure, progress)
  const { model } = kindOf(kind)
  return {
    ...bench,
    id: '5f0c1c52-0000-4000-8000-000000000001',
    position: setup.position,
    place: 'Hall',
    spot: 'Outlet',
    kind,
    quantity: model.quantity(setup.device),
    procedure: id,
    procedureName: procedure.name,
    trip: null,
    operator: 'S. Osk',
    startedAt: NOW - 3_600_000,
    closedAt: null,
    outcome: null,
    holder: null,
    current: bench.now?.key ?? null,
    cautions: [],
    authorityRule: null,
    linked: setup.linked,
    readsBack: readsBack(setup),
    lineChanged: null,
    writable: setup.writable,
    deviceShows: setup.shows,
    setting: '',
    scale: model.shownScale(setup.device),
    fixedTemperature: null,
    assumedTemperature: bench.now ? assumedTemperature(progress.evidence, bench.now) : null,
    display: displayBounds(kind, setup.device),
    typing: typedBounds(kind, setup.device, setup.shows),
    standards: Object.fromEntries(Object.entries(setup.standards).map(([role, s]) => [role, s.code])),
    lot: null,
    summary: bench.now === null ? { asFound, asLeft, next: null } : null,
    revision: lines.length,
    ...view,
  }
}

/** A settled reading, at 22 degC, of a sensor with these parameters: in a standard, or where the value is so much. */
export function captured(
  kind: SensorKind,
  step: string,
  { code, actual = {}, ...at }: { code?: string; value?: number; actual?: Record<string, number> },
): VisitEntry {
  const { model } = kindOf(kind)
  const value = code ? standardOf(code).valueAt(22) : (at.value ?? 0)
  const signal = model.signalOf(value, 22, { ...model.ideal, ...actual }, {})
  const reading: CapturedReading = {
    source: 'line',
    signal,
    signalUncertainty: 0.3,
    temperature: 22,
    shown: model.toShown(signal, 22, model.ideal, {}),
    stability: { state: 'stable', reason: 'known', seconds: 40, confidence: 97 },
    trace: [],
    signature: null,
    ...(code ? { standard: { code, value, lot: 'A-1', expired: false, openTooLong: false, daysOver: 0 } } : {}),
  }
  return { type: 'captured', step, reading }
}

const OPINION: StabilityOpinion = {
  state: 'settling',
  reason: 'value-moving',
  elapsed: 30,
  driftPerMinute: 2,
  noise: 0.1,
  predictedEnd: -170,
  predictedTemperature: 24.6,
  predictedEndUncertainty: 3,
  secondsToGo: 42.2,
  confidence: 60,
  nextReadingIn: 10,
}

export const liveAt = (
  step: string | null,
  { opinion = {}, ...change }: Partial<Omit<VisitLive, 'opinion'>> & { opinion?: Partial<StabilityOpinion> } = {},
): VisitLive => ({
  step,
  at: NOW,
  blindSince: null,
  value: -168,
  unit: 'mV',
  decimals: 1,
  shown: 9.9,
  shownUnit: 'pH',
  shownDecimals: 2,
  temperature: 22,
  wanted: difference(0.03, 'pH', 2),
  opinion: { ...OPINION, ...opinion },
  taken: isTaken('known', opinion.state ?? OPINION.state),
  trace: [[1, -168]],
  fresh: false,
  everySeconds: null,
  needsTemperature: false,
  finding: null,
  arrived: true,
  arithmetic: [],
  revision: 1,
  ...change,
})
