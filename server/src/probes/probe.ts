import type { ProbeView } from '@frustum/contract'
import { modelOf, procedureOf, render, sensorEvent, type WorkDone } from '@frustum/core'
import { asc, desc, eq, inArray } from 'drizzle-orm'
import { computedSensors } from '../ageing/computed.ts'
import { changesOf } from '../changes/changes.ts'
import { partOf } from '../database/canonicalJson.ts'
import { DATES_MS, shownToAll } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import { calibrations, driftObservations, events, visits } from '../database/schema.ts'
import { changedDeviceCalibrations } from '../devices/deviceCalibration.ts'
import { isWritable } from '../devices/links.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { notFound, Problem } from '../problem.ts'
import { thingOf } from '../rig/edit.ts'
import { figureOf, MANY_STEPS, rowsOf } from '../rounds/overview.ts'
import { calibrationInForce, earlierInstallations, installedAt, installedSensors } from '../sensors.ts'
import { processShown } from '../shown.ts'
import { healthView } from './healthView.ts'
import { hourMeter } from './hourMeter.ts'
import { minutesPerVisit } from './whatIf.ts'

/** The page of a sensor as many look at it: what was recorded is read when it has changed, what moves is of this moment. */
export async function probeNow(db: Database, live: LiveValues, code: string, now: number): Promise<ProbeView> {
  const [standing, installed] = await Promise.all([
    shownToAll(db, `probe ${code}`, { now, freshMs: DATES_MS }, () => probe(db, live, code, now)),
    installedSensors(db),
  ])
  const [row] = await rowsOf(
    db,
    live,
    installed.filter((i) => i.position.code === standing.position),
    now,
  )
  // One that cannot be computed is as it stands.
  return row ? { ...standing, ...row, figure: standing.figure } : standing
}

/** One sensor with all that is known of it. */
export async function probe(db: Database, live: LiveValues, code: string, now: number): Promise<ProbeView> {
  const installed = await installedAt(db, code)
  const { installation, sensor, device, position } = installed
  const model = modelOf(position.kind)
  const { forecasts, healths, unfit } = await computedSensors(db, now)
  const why = unfit.find((u) => u.installed.installation.id === installation.id)?.why
  if (why !== undefined) {
    throw new Problem(409, 'cannot-be-computed', `${position.code} cannot be computed.`, {
      detail: render(why),
      hint: 'Its records are whole. Set it right on its page in Rig.',
    })
  }
  const [row] = await rowsOf(db, live, [installed], now)
  const [known, health] = [forecasts.get(installation.id), healths.get(installation.id)]
  // It was taken away while it was asked for.
  if (!row || !known || !health) throw notFound('sensor')
  const before = (await earlierInstallations(db, [installed])).get(installation.id) ?? []
  const everywhere = [...before.map((e) => e.id), installation.id]
  const found = await db
    .select()
    .from(calibrations)
    .where(inArray(calibrations.installationId, everywhere))
    .orderBy(asc(calibrations.at))
  const past = await db
    .select({
      id: visits.id,
      procedure: visits.procedure,
      operator: visits.operator,
      work: partOf<WorkDone>(visits.record, 'work'),
      drift: driftObservations,
    })
    .from(driftObservations)
    .innerJoin(visits, eq(driftObservations.visitId, visits.id))
    .where(eq(driftObservations.installationId, installation.id))
    .orderBy(desc(driftObservations.at))
  const happened = await db
    .select()
    .from(events)
    .where(eq(events.installationId, installation.id))
    .orderBy(asc(events.at))
  const changed = (await changedDeviceCalibrations(db, [installed])).get(installation.id)
  const activeCalibration = await calibrationInForce(db, installation.id, new Date(now))
  return {
    ...row,
    figure: figureOf(db, installed, known, { now, steps: MANY_STEPS }),
    health: await healthView(db, everywhere, health, known.observations),
    setAside: known.series.setAside,
    processValue: position.processValue,
    processUnit: model.coreUnit,
    minutesPerVisit: await minutesPerVisit(db, installation.id),
    serialNumber: sensor.serialNumber,
    model: sensor.model,
    installedAt: installation.installedAt.getTime(),
    cameFrom: before.map((e) => ({
      position: e.code,
      from: e.installedAt.getTime(),
      to: e.removedAt?.getTime() ?? now,
    })),
    numbersChanged: changed ? { at: changed.at.getTime(), given: changed.given } : null,
    writable: isWritable({ position, device }),
    hourMeter: await hourMeter(db, position.id),
    device: device.setting,
    deviceShows: device.shows,
    changes: await changesOf(
      db,
      { subject: 'position', id: position.id },
      (await thingOf(db, 'position', String(position.id))).words,
    ),
    cautions: position.cautions,
    authorityRule: position.authorityRule,
    processShown: processShown(installed),
    errorScale: model.errorScale,
    parameters: model.parameters,
    calibrations: found.map((c) => ({
      at: c.at.getTime(),
      characteristic: c.characteristic,
      uncertainty: c.uncertainty,
      adopted: c.adopted,
      baseline: c.baseline,
    })),
    visits: past.map(({ id, procedure, operator, work, drift }) => ({
      id,
      at: drift.at.getTime(),
      procedure,
      name: procedureOf(procedure).name,
      operator,
      work,
      asFound: drift.asFound,
      asLeft: drift.asLeft,
      verified: drift.verified,
      uncertainty: drift.uncertainty,
      fouling: drift.fouling,
      adjusted: drift.adjusted,
    })),
    events: happened.map(({ at, kind, note, operator, byHand, photo }) => ({
      photo,
      at: at.getTime(),
      kind,
      label: byHand ? (sensorEvent(kind)?.label ?? null) : null,
      note,
      operator,
    })),
    activeCalibration,
  }
}
