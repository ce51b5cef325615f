import type { VisitView } from '@frustum/contract'
import { displayBounds, typedBounds } from '@frustum/contract'
import {
  assumedTemperature,
  type BenchView,
  CODES_FIRST,
  HAZARDS,
  type Hazard,
  isOverLine,
  kindOf,
  type NextDate,
  readsBack,
  viewOfProgress,
} from '@frustum/core'
import { and, desc, eq, gt, ne, or } from 'drizzle-orm'
import { cachedForecasts } from '../ageing/computed.ts'
import { nextDateOf } from '../ageing/forecasts.ts'
import type { Database } from '../database/open.ts'
import { changes, visits } from '../database/schema.ts'
import { type OpenedVisit, openVisit } from '../records/openVisit.ts'
import { policyOf } from '../sensorPolicy.ts'
import type { Installed } from '../sensors.ts'
import { lotFor, lotOnStep } from '../shelf/lots.ts'

/** A visit as the browser sees it. */
export async function visitView(db: Database, opened: OpenedVisit, now: number): Promise<VisitView> {
  const { row, installed, procedure, setup, progress } = opened
  const { position, place } = installed
  const { current } = progress
  const { model, settingText } = kindOf(position.kind)
  const { hazards, asFound, asLeft, ...bench } = viewOfProgress(procedure, progress)
  const role = current?.role
  const code = role ? setup.standards[role]?.code : undefined
  return {
    ...bench,
    now: row.closedAt ? null : bench.now,
    ahead: row.closedAt ? [] : bench.ahead,
    result: row.closedAt ? null : bench.result,
    id: row.id,
    position: position.code,
    place: place.name,
    spot: position.spot,
    kind: position.kind,
    quantity: model.quantity(setup.device),
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
    current: row.closedAt ? null : (current?.key ?? null),
    cautions: await cautionsOf(db, opened, hazards),
    authorityRule: setup.authorityRule,
    linked: setup.linked,
    readsBack: readsBack(setup),
    lineChanged: row.closedAt ? null : await lineChangedSince(db, opened),
    writable: setup.writable,
    deviceShows: setup.shows,
    setting: settingText(setup.device),
    scale: model.shownScale(setup.device),
    assumedTemperature: current ? assumedTemperature(progress.evidence, current) : null,
    fixedTemperature: setup.device.fixedTemperature ?? null,
    display: displayBounds(position.kind, setup.device),
    typing: typedBounds(position.kind, setup.device, setup.shows),
    standards: row.settings.standards,
    lot: code ? lotOnStep(await lotFor(db, code, now)) : null,
    waiting: bench.waiting ?? (await sharedWait(db, opened)),
    summary: row.outcome === 'done' ? { asFound, asLeft, next: await nextAfter(db, installed, now) } : null,
    revision: opened.revision,
  }
}

/** Another line than the one it began with: what was read over that one is to be read again. */
async function lineChangedSince(
  db: Database,
  { row, installed, progress, lines }: OpenedVisit,
): Promise<VisitView['lineChanged']> {
  if (!progress.evidence.setup.linked) return null
  const { position, device } = installed
  const [last] = await db
    .select({ at: changes.at })
    .from(changes)
    .where(
      and(
        gt(changes.at, row.startedAt),
        or(
          and(eq(changes.subject, 'position'), eq(changes.subjectId, position.id), eq(changes.field, 'mapping')),
          and(eq(changes.subject, 'device'), eq(changes.subjectId, device.id), eq(changes.field, 'line')),
        ),
      ),
    )
    .orderBy(desc(changes.id))
    .limit(1)
  if (!last) return null
  const at = last.at.getTime()
  const steps = progress.steps.flatMap(({ step: { key, short } }) => {
    const reading = progress.evidence.readings[key]
    const taken = lines.findLast(({ entry }) => entry.type === 'captured' && entry.step === key)
    return reading && isOverLine(reading.source) && taken && taken.at < at ? [{ key, label: short }] : []
  })
  return { at, steps }
}

/** Each hazard is said once a visit, where it first applies; on a trip once for all its sensors. */
async function cautionsOf(
  db: Database,
  { row, installed, progress }: OpenedVisit,
  hazards: BenchView['hazards'],
): Promise<string[]> {
  const { current, steps } = progress
  if (!current || row.closedAt) return []
  const said = new Set(hazards.before)
  if (row.tripId) for (const hazard of await hazardsOfTrip(db, row.tripId, row.id)) said.add(hazard)
  const own = hazards.now.filter((h) => !said.has(h)).map((h) => HAZARDS[h])
  const all = steps[0]?.step.key === current.key ? [...installed.position.cautions, ...own] : own
  return all.length > 0 ? [...all, CODES_FIRST] : []
}

async function hazardsOfTrip(db: Database, tripId: string, but: string): Promise<Hazard[]> {
  const others = await db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.tripId, tripId), ne(visits.id, but)))
  const found: Hazard[] = []
  for (const { id } of others) {
    const { progress } = await openVisit(db, id)
    for (const s of progress.steps) if (s.status === 'done' || s.status === 'now') found.push(...(s.step.hazards ?? []))
  }
  return found
}

/** A float that runs for another sensor of the trip serves this one too. */
async function sharedWait(db: Database, { row, progress }: OpenedVisit): Promise<VisitView['waiting']> {
  const { current } = progress
  if (!row.tripId || !current?.shared) return null
  const others = await db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.tripId, row.tripId), ne(visits.id, row.id)))
  for (const { id } of others) {
    const other = await openVisit(db, id)
    const wait = other.progress.waits[current.key]
    if (wait) return wait
  }
  return null
}

async function nextAfter(db: Database, { installation, position }: Installed, now: number): Promise<NextDate | null> {
  if (installation.removedAt) return null
  const known = (await cachedForecasts(db, now)).get(installation.id)
  if (!known || known.series.observations.length === 0) return null
  return nextDateOf(known, policyOf(position, known.hours))
}
