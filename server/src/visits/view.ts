import type { ResultView, StepView, VisitView } from '@frustum/contract'
import { typedBounds } from '@frustum/contract'
import {
  arithmeticOf,
  type CalibrationParameters,
  CODES_FIRST,
  errorText,
  HAZARDS,
  type Hazard,
  kindOf,
  modelOf,
  type NextDate,
  nullIfOutOfRange,
  parametersText,
  type StepState,
  shownText,
  signalText,
  type VisitState,
} from '@frustum/core'
import { and, eq, ne } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { visits } from '../database/schema.ts'
import { cachedForecasts, nextDateOf } from '../probes/forecasts.ts'
import { policyOf } from '../sensorPolicy.ts'
import type { Installed } from '../sensors.ts'
import { lotFor, lotOnStep } from '../shelf/lots.ts'
import { type OpenedVisit, openVisit } from './records.ts'

/** A visit as the browser sees it. */
export async function visitView(db: Database, opened: OpenedVisit, now: number): Promise<VisitView> {
  const { row, installed, procedure, setup, progress } = opened
  const { position, place, device } = installed
  const { evidence, current } = progress
  const model = modelOf(position.kind)
  const role = current?.role
  const code = role ? setup.standards[role]?.code : undefined
  return {
    id: row.id,
    position: position.code,
    place: place.name,
    spot: position.spot,
    kind: position.kind,
    quantity: model.quantity(device.setting),
    procedure: procedure.id,
    procedureName: procedure.name,
    trip: row.tripId,
    operator: row.operator,
    startedAt: row.startedAt.getTime(),
    closedAt: row.closedAt?.getTime() ?? null,
    outcome: row.outcome,
    holder:
      row.holderClient && row.holderName && row.heldSince && !row.closedAt
        ? { clientId: row.holderClient, name: row.holderName, since: row.heldSince.getTime() }
        : null,
    steps: progress.steps.map((s) => stepView(evidence, s)),
    now: row.closedAt ? null : current,
    current: row.closedAt ? null : (current?.key ?? null),
    cautions: await cautionsOf(db, opened, now),
    authorityRule: position.authorityRule,
    linked: setup.linked,
    writable: setup.writable,
    deviceShows: setup.shows,
    setting: kindOf(position.kind).settingText(device.setting),
    scale: model.shownScale(device.setting),
    typing: typedBounds(position.kind, device.setting, setup.shows),
    standards: row.settings.standards,
    lot: code ? lotOnStep(await lotFor(db, code, now)) : null,
    waiting: progress.waiting ?? (await sharedWait(db, opened, now)),
    result: current && !row.closedAt ? resultAt(opened, current.key) : null,
    decided: lastDecision(evidence),
    applied: evidence.applied && {
      text: parametersText(evidence.model, evidence.applied.characteristic),
      way: evidence.applied.way,
    },
    arithmetic: arithmeticOf(procedure, evidence, null, null),
    beforeAndAfter: beforeAndAfter(opened),
    summary: row.closedAt && row.outcome === 'done' ? await summaryOf(db, opened, now) : null,
    revision: opened.revision,
  }
}

function stepView(evidence: VisitState, { step, status, reason }: StepState): StepView {
  const reading = status === 'done' ? (evidence.readings[step.key] ?? null) : null
  return {
    key: step.key,
    kind: step.kind,
    short: step.short,
    status,
    reading,
    text: reading ? readingText(evidence, step.medium === 'process', reading) : '',
    usualSkips: step.usualSkips,
    reason,
  }
}

/** In the process what is shown counts; in a standard the signal, where there is one. */
function readingText(e: VisitState, inProcess: boolean, reading: { signal: number; shown: number }): string {
  const showsSignal = e.setup.shows === 'signal' && e.kind.signalLeads
  return inProcess || !showsSignal ? shownText(e, reading.shown) : signalText(e, reading.signal)
}

/** What an open verdict or result says, and what would be given to the device. */
export function resultAt(opened: Pick<OpenedVisit, 'procedure' | 'progress'>, step: string): ResultView | null {
  const { procedure, progress } = opened
  const { evidence } = progress
  const kind = progress.steps.find((s) => s.step.key === step)?.step.kind
  // Applying shows the numbers of the result before it.
  const judged = nullIfOutOfRange(() => procedure.judge(evidence, kind === 'apply' ? 'result' : step))
  if (!judged || !['verdict', 'result', 'apply'].includes(kind ?? '')) return null
  const { found, ...rest } = judged
  return { ...rest, apply: found ? applyOf(evidence, found.characteristic) : [] }
}

/** The numbers of a characteristic, rounded as they are keyed in. */
function applyOf(evidence: VisitState, found: CalibrationParameters): ResultView['apply'] {
  return evidence.model.parameters.flatMap(({ key, label, unit, decimals, scale }) => {
    const value = found[key]
    if (value === undefined) return []
    const text = (value * scale).toFixed(decimals)
    return [{ key, label, text, unit, value: Number(text) / scale }]
  })
}

export const wantedCharacteristic = (result: ResultView): CalibrationParameters =>
  Object.fromEntries(result.apply.map((p) => [p.key, p.value]))

function lastDecision(evidence: VisitState): VisitView['decided'] {
  const last = Object.entries(evidence.decisions).at(-1)
  return last ? { step: last[0], ...last[1] } : null
}

/** Each hazard is said once a visit, where it first applies; on a trip once for all its sensors. */
async function cautionsOf(db: Database, { row, installed, progress }: OpenedVisit, now: number): Promise<string[]> {
  const { current, steps } = progress
  if (!current || row.closedAt) return []
  const at = steps.findIndex((s) => s.step.key === current.key)
  const seen = new Set<string>(steps.slice(0, at).flatMap((s) => s.step.hazards ?? []))
  if (row.tripId) for (const hazard of await hazardsOfTrip(db, row.tripId, row.id, now)) seen.add(hazard)
  const own = (current.hazards ?? []).filter((h) => !seen.has(h)).map((h) => HAZARDS[h])
  const all = at === 0 ? [...installed.position.cautions, ...own] : own
  return all.length > 0 ? [...all, CODES_FIRST] : []
}

async function hazardsOfTrip(db: Database, tripId: string, but: string, now: number): Promise<Hazard[]> {
  const others = await db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.tripId, tripId), ne(visits.id, but)))
  const found: Hazard[] = []
  for (const { id } of others) {
    const { progress } = await openVisit(db, null, id, now)
    for (const s of progress.steps) if (s.status === 'done' || s.status === 'now') found.push(...(s.step.hazards ?? []))
  }
  return found
}

/** A float that runs for another sensor of the trip serves this one too. */
async function sharedWait(db: Database, { row, progress }: OpenedVisit, now: number): Promise<VisitView['waiting']> {
  const { current } = progress
  if (!row.tripId || !current?.shared) return null
  const others = await db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.tripId, row.tripId), ne(visits.id, row.id)))
  for (const { id } of others) {
    const other = await openVisit(db, null, id, now)
    const wait = other.progress.waits[current.key]
    if (wait) return wait
  }
  return null
}

function beforeAndAfter({ progress, procedure, row }: OpenedVisit): VisitView['beforeAndAfter'] {
  const { evidence } = progress
  const [before, after] = [evidence.readings['found-process'], evidence.readings.back]
  if (!before || !after) return null
  const { model, setup } = evidence
  const core = (r: typeof before, activeCalibration: CalibrationParameters) =>
    nullIfOutOfRange(() => model.valueOf(r.signal, r.temperature, activeCalibration, setup.device))
  const was = core(before, setup.activeCalibration)
  const is = core(after, evidence.applied?.characteristic ?? setup.activeCalibration)
  if (was === null || is === null) return null
  const jump = model.errorOf(is, was)
  const observed = nullIfOutOfRange(() => procedure.observe(evidence))
  const explained = observed ? observed.asLeft - (observed.asFound ?? observed.asLeft) : 0
  return {
    before: shownText(evidence, before.shown),
    after: shownText(evidence, after.shown),
    jump: errorText(evidence, jump),
    odd: Math.abs(jump - explained) > 2 * setup.tolerance && row.outcome !== 'abandoned',
  }
}

async function summaryOf(db: Database, opened: OpenedVisit, now: number): Promise<VisitView['summary']> {
  const { procedure, progress, installed } = opened
  const observed = nullIfOutOfRange(() => procedure.observe(progress.evidence))
  return {
    asFound: observed?.asFound == null ? null : errorText(progress.evidence, observed.asFound),
    asLeft: observed ? errorText(progress.evidence, observed.asLeft) : null,
    next: await nextAfter(db, installed, now),
  }
}

async function nextAfter(db: Database, { installation, position }: Installed, now: number): Promise<NextDate | null> {
  if (installation.removedAt) return null
  const known = (await cachedForecasts(db, now)).get(installation.id)
  if (!known || known.series.observations.length === 0) return null
  return nextDateOf(known, policyOf(position, known.hours))
}
