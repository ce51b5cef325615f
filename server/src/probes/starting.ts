import type { StartingView } from '@frustum/contract'
import {
  type DeviceSetting,
  difference,
  type FieldSpec,
  kindOf,
  modelOf,
  nullIfOutOfRange,
  type Procedure,
  parametersSentence,
  proceduresFor,
  quantity,
  type SensorKind,
  type Sentence,
  say,
  shownValue,
} from '@frustum/core'
import { and, asc, desc, eq, isNull } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { devices, places, positions, visits } from '../database/schema.ts'
import { changedDeviceCalibrations } from '../devices/deviceCalibration.ts'
import { isLinked } from '../devices/links.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { notFound } from '../problem.ts'
import { lineFacts } from '../records/setup.ts'
import { rowsOf } from '../rounds/overview.ts'
import { mayBeRight, usualProcedure } from '../rounds/usualProcedure.ts'
import { type Installed, installedSensors, spareSerials } from '../sensors.ts'
import { lotFor, lotOnStep } from '../shelf/lots.ts'
import { processShown } from '../shown.ts'
import { openingFields, unmetPrerequisites } from '../visits/start.ts'

/** What can be begun at a position, what each needs, and what speaks against it. */
export async function starting(db: Database, live: LiveValues, code: string, now: number): Promise<StartingView> {
  const [place] = await db
    .select({ position: positions, place: places, device: devices })
    .from(positions)
    .innerJoin(places, eq(positions.placeId, places.id))
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .where(and(eq(positions.code, code), isNull(positions.archivedAt)))
  if (!place) throw notFound('sensor')
  const { position, device } = place
  const installed = (await installedSensors(db)).find((i) => i.position.code === code) ?? null
  const model = modelOf(position.kind)
  const subject = {
    kind: position.kind,
    device: device.setting,
    shows: device.shows,
    linked: isLinked({ position, device }),
    ...lineFacts({ position, device }),
    adjustsBy: device.adjustsBy,
    twins: [],
    processValue: position.processValue,
  }
  const possible = proceduresFor(subject).filter((p) => installed !== null || p.baseline)
  const proposed = installed ? await proposal(db, live, installed, possible, now) : possible[0]?.id
  const past = installed
    ? await lastStandards(db, installed.installation.id)
    : new Map<string, Record<string, string>>()
  const spares = await spareSerials(db, position.kind)
  const procedures = await Promise.all(
    possible.map(async (p) => ({
      id: p.id,
      name: p.name,
      summary: p.summary,
      needs: p.needs,
      minutes: p.handsOnMinutes,
      roles: p.roles.map(({ role, label, propose }) => ({
        role,
        label,
        choices: withHabit(withinDisplay(propose(subject), position.kind, device.setting), past.get(p.id)?.[role]),
        pours: p.pours[role] ?? 1,
      })),
      opening: withSpares(await openingFields(db, p, { position, device }, new Date(now)), spares),
      proposed: p.id === proposed,
      unmet: installed ? await unmetPrerequisites(db, installed, p, now) : [],
    })),
  )
  const codes = new Set(procedures.flatMap((p) => p.roles.flatMap((r) => r.choices)))
  const lots: StartingView['lots'] = {}
  for (const standard of codes) lots[standard] = lotOnStep(await lotFor(db, standard, now))
  const { unit, decimals } = model.shownScale(device.setting)
  const shown = processShown({ position, device })
  return {
    position: code,
    positionId: position.id,
    occupied: installed !== null,
    place: place.place.name,
    spot: position.spot,
    kind: position.kind,
    quantity: model.quantity(device.setting),
    cautions: position.cautions,
    authorityRule: position.authorityRule,
    process: quantity(shown, unit, decimals),
    tolerance: difference(position.tolerance, model.errorScale.unit, model.errorScale.decimals),
    numbersChanged: installed ? await numbersWarning(db, installed) : null,
    setting: kindOf(position.kind).settingText(device.setting),
    procedures,
    lots,
    last: possible.find((p) => p.id === [...past.keys()].at(-1))?.id ?? null,
  }
}

async function numbersWarning(db: Database, installed: Installed): Promise<Sentence | null> {
  const changed = (await changedDeviceCalibrations(db, [installed])).get(installed.installation.id)
  if (!changed) return null
  const model = modelOf(installed.position.kind)
  return say`Calibration in the device: ${parametersSentence(model, changed.held)}; on record: ${parametersSentence(model, changed.given)}. The reading as found is off by the difference. Restore the calibration on the sensor’s page first, or calibrate now.`
}

/** The standards with which each procedure was last done here, the last visit at the end. */
async function lastStandards(db: Database, installationId: number): Promise<Map<string, Record<string, string>>> {
  const rows = await db
    .select({ procedure: visits.procedure, settings: visits.settings })
    .from(visits)
    .where(eq(visits.installationId, installationId))
    .orderBy(asc(visits.startedAt))
  const last = new Map<string, Record<string, string>>()
  for (const { procedure, settings } of rows) {
    // The newest visit stays last in order, too.
    last.delete(procedure)
    last.set(procedure, settings.standards)
  }
  return last
}

/** The numbers of the spares in store are offered where the new sensor's is asked for. */
const withSpares = (fields: readonly FieldSpec[], spares: readonly string[]): FieldSpec[] =>
  fields.map((f) => (f.key === 'serial' && spares.length > 0 ? { ...f, suggestions: spares } : f))

/** A standard beyond what the display can show is not proposed, as long as there is another. */
function withinDisplay(codes: readonly string[], kind: SensorKind, device: DeviceSetting): readonly string[] {
  const { low, high } = device.displays?.[kind] ?? {}
  if (low === undefined && high === undefined) return codes
  const model = modelOf(kind)
  const within = codes.filter((code) => {
    const shown = nullIfOutOfRange(() => shownValue(kind, model.standardValue(code, 25, device), 25, device))
    return shown === null || (shown >= (low ?? -Infinity) && shown <= (high ?? Infinity))
  })
  return within.length > 0 ? within : codes
}

/** What was used last comes first. */
const withHabit = (choices: readonly string[], last: string | undefined): string[] =>
  last && choices.includes(last) ? [last, ...choices.filter((c) => c !== last)] : [...choices]

/** What is usually done next here. */
async function proposal(
  db: Database,
  live: LiveValues,
  installed: NonNullable<Awaited<ReturnType<typeof installedSensors>>[number]>,
  possible: readonly Procedure[],
  now: number,
): Promise<string | undefined> {
  const [row] = await rowsOf(db, live, [installed], now)
  const past = await db
    .select({ procedure: visits.procedure })
    .from(visits)
    .where(eq(visits.installationId, installed.installation.id))
    .orderBy(desc(visits.startedAt))
    .limit(12)
  const { position, device } = installed
  return usualProcedure(
    { position, device: device.setting, sound: row !== undefined && mayBeRight(row.driftState, row.figure.next) },
    possible,
    past.map((v) => v.procedure),
  )?.id
}
