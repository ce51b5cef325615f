import {
  type CalibrationParameters,
  completed,
  differingParameters,
  type MeasurementModel,
  modelOf,
  type NumbersChange,
  nullIfOutOfRange,
  parametersSentence,
  render,
  unknownIn,
} from '@frustum/core'
import { and, asc, desc, eq, inArray, isNull, lte, max } from 'drizzle-orm'
import type { Database } from '../database/open.ts'
import { calibrations, deviceCalibrations, events, visits } from '../database/schema.ts'
import { Problem } from '../problem.ts'
import { calibrationInForce, type Installed, installedAt } from '../sensors.ts'
import type { CalibrationAccess } from './link.ts'
import { isLinked, type Links } from './links.ts'

/** The event under which a device's own change of its numbers is kept. */
const NUMBERS_CHANGED = 'numbers-changed'

/**
 * Compares the calibration held by a linked device with the one on record, and records a change: a reset, or a change at
 * the keypad. The first calibration seen starts the record and is no change. A device that does not answer is asked at
 * the next check.
 */
export async function checkDeviceCalibration(
  db: Database,
  links: Links,
  installed: Installed,
  now: Date,
): Promise<void> {
  const { installation, position } = installed
  const calibration = links.link(position.code)?.calibration
  if (!calibration || links.live.current(position.code).blindSince !== null || (await isVisited(db, installation.id)))
    return
  const held = await calibration.read().catch(() => null)
  if (!held) return
  const given = await calibrationInForce(db, installation.id, now)
  const model = modelOf(position.kind)
  const differing = differingParameters(model, held, given)
  if (unknownIn(model, given).some((key) => held[key] !== undefined)) {
    const known = { ...given, ...held }
    await db.insert(deviceCalibrations).values({ installationId: installation.id, at: now, held: known, given: known })
    return
  }
  if (differing.length === 0) return
  await db.transaction(async (tx) => {
    await tx.insert(deviceCalibrations).values({ installationId: installation.id, at: now, held, given })
    await tx.insert(events).values({
      installationId: installation.id,
      at: now,
      kind: NUMBERS_CHANGED,
      note: `Calibration changed in the device: on record ${differing
        .map((d) => numbersText(model, { [d.parameter.key]: d.given }))
        .join(', ')}; now ${differing
        .map((d) => (d.held === undefined ? 'none' : numbersText(model, { [d.parameter.key]: d.held })))
        .join(', ')}.`,
    })
  })
}

/** Checks all linked devices, one after the other. */
export async function checkAllDeviceCalibrations(
  db: Database,
  links: Links,
  installed: readonly Installed[],
  now: Date,
): Promise<void> {
  for (const i of installed) if (isLinked(i)) await checkDeviceCalibration(db, links, i, now)
}

/** Writes the calibration on record back to a device that lost it. @throws Problem when nothing was lost, or the device refuses */
export async function restoreDeviceCalibration(
  db: Database,
  links: Links,
  code: string,
  operator: string,
  at: Date,
): Promise<void> {
  const installed = await installedAt(db, code)
  const { installation, position } = installed
  const changed = (await changedDeviceCalibrations(db, [installed])).get(installation.id)
  if (!changed) {
    throw new Problem(409, 'numbers-as-left', 'The device holds the calibration on record.', {
      hint: 'There is nothing to restore.',
    })
  }
  if (await isVisited(db, installation.id)) {
    throw new Problem(409, 'visit-open', 'A visit at this sensor is open.', { hint: 'Finish or end that one first.' })
  }
  const write = links.link(code)?.calibration?.write
  if (!write) {
    throw new Problem(409, 'not-writable', 'This device cannot be written over its link.', {
      hint: 'Key the calibration in on the device; it is checked here within ten minutes.',
    })
  }
  const held = await writeDeviceCalibration(write, modelOf(position.kind), changed.given)
  await db.transaction(async (tx) => {
    await tx
      .insert(deviceCalibrations)
      .values({ installationId: installation.id, at, held, given: changed.given, operator })
    await tx.insert(events).values({
      installationId: installation.id,
      at,
      kind: 'numbers-given-back',
      note: `${operator} restored the calibration in the device (${numbersText(modelOf(position.kind), held)}).`,
    })
  })
}

/** Writes numbers and reads them back. @throws Problem when the device is silent or holds others afterwards */
export async function writeDeviceCalibration(
  write: NonNullable<CalibrationAccess['write']>,
  model: MeasurementModel,
  wanted: CalibrationParameters,
): Promise<CalibrationParameters> {
  const held = await write(wanted).catch((problem: Error) => {
    throw new Problem(502, 'device-silent', 'The device did not take the numbers.', {
      detail: `${problem.message} What was found is kept; nothing is lost.`,
      hint: 'Check the line and try again, or key the numbers in by hand.',
    })
  })
  const differing = differingText(model, held, wanted)
  if (differing) {
    throw new Problem(502, 'device-differs', 'The device holds other numbers than were sent.', {
      detail: differing,
      hint: 'Try again, or key the numbers in by hand.',
    })
  }
  return held
}

/** Reads back the numbers that were keyed in by hand. @throws Problem when the device is silent or holds others */
export async function readKeyedCalibration(
  { read }: CalibrationAccess,
  model: MeasurementModel,
  keyed: CalibrationParameters,
): Promise<CalibrationParameters> {
  const held = await read().catch(() => {
    throw new Problem(502, 'device-silent', 'The device does not answer, so nobody knows yet what it holds.', {
      detail: 'What was found is kept; nothing is lost.',
      hint: 'Check the line and confirm again, or skip the step: it is keyed in later.',
    })
  })
  const differing = differingText(model, held, keyed)
  if (differing) {
    throw new Problem(409, 'device-differs', 'The device does not hold these numbers.', {
      detail: `${differing} Nothing was recorded as given.`,
      hint: 'Key them in and save them on the device, then confirm again.',
    })
  }
  return held
}

/** What the device holds where it differs; null where it is as wanted. */
function differingText(model: MeasurementModel, held: CalibrationParameters, wanted: CalibrationParameters) {
  const differing = differingParameters(model, held, wanted)
  if (differing.length === 0) return null
  const each = differing.map(
    (d) =>
      `its ${d.parameter.label.toLowerCase()} is ${d.held === undefined ? 'none' : numbersText(model, { [d.parameter.key]: d.held })}`,
  )
  return `Read back: ${each.join(', ')}.`
}

/** A device whose calibration differs from the one it was given. */
export interface ChangedCalibration {
  at: Date
  held: CalibrationParameters
  /** The calibration last entered or restored, or the first one read from the device. */
  given: CalibrationParameters
}

/** Returns devices whose calibration differs by more than a display digit from the one they were given, by installation. */
export async function changedDeviceCalibrations(
  db: Database,
  installed: readonly Pick<Installed, 'installation' | 'position'>[],
): Promise<Map<number, ChangedCalibration>> {
  const ids = installed.map((i) => i.installation.id)
  if (ids.length === 0) return new Map()
  const adopted = await db
    .select({ id: calibrations.installationId, at: max(calibrations.at) })
    .from(calibrations)
    .where(and(inArray(calibrations.installationId, ids), eq(calibrations.adopted, true)))
    .groupBy(calibrations.installationId)
  const adoptedAt = new Map(adopted.map(({ id, at }) => [id, at?.getTime() ?? Number.NEGATIVE_INFINITY]))
  const seen = await db
    .select()
    .from(deviceCalibrations)
    .where(inArray(deviceCalibrations.installationId, ids))
    .orderBy(asc(deviceCalibrations.at))
  const now = new Map<number, ChangedCalibration>()
  for (const { installationId: id, at, held, given, operator } of seen) {
    // The last calibration replaced what was read before it.
    if (at.getTime() <= (adoptedAt.get(id) ?? Number.NEGATIVE_INFINITY)) continue
    const before = now.get(id)?.given
    now.set(id, { at, held, given: operator === null ? (before ?? given) : { ...before, ...held } })
  }
  const isChanged = ([id, { held, given }]: [number, ChangedCalibration]) => {
    const { position } = installed.find((i) => i.installation.id === id) as (typeof installed)[number]
    return differingParameters(modelOf(position.kind), held, given).length > 0
  }
  return new Map([...now].filter(isChanged))
}

/** By installation: when numbers changed, and by how much the error at the process value moved with them. */
export async function numbersChanges(
  db: Database,
  installed: readonly Installed[],
): Promise<Map<number, NumbersChange[]>> {
  const ids = installed.map((i) => i.installation.id)
  const found = new Map<number, NumbersChange[]>()
  if (ids.length === 0) return found
  const changes = await db
    .select()
    .from(deviceCalibrations)
    .where(inArray(deviceCalibrations.installationId, ids))
    .orderBy(asc(deviceCalibrations.at))
  const heldBefore = new Map<number, CalibrationParameters>()
  for (const change of changes) {
    const { installation, position, device } = installed.find(
      (i) => i.installation.id === change.installationId,
    ) as Installed
    // Found changed: from what was given to what is held. Given back: the way back.
    const before = change.operator === null ? change.given : (heldBefore.get(installation.id) ?? change.given)
    heldBefore.set(installation.id, change.held)
    const [actual] = await db
      .select()
      .from(calibrations)
      .where(and(eq(calibrations.installationId, installation.id), lte(calibrations.at, change.at)))
      .orderBy(desc(calibrations.at))
      .limit(1)
    const model = modelOf(position.kind)
    // The first read is no change.
    if (differingParameters(model, change.held, before).length === 0) continue
    const process = { value: position.processValue, temperature: position.processTemperature }
    const error = (heldCalibration: CalibrationParameters) =>
      nullIfOutOfRange(() =>
        // What two calibrations make of one signal hardly rests on the sensor that gives it.
        model.errorAt(
          completed(model, actual?.characteristic ?? {}),
          completed(model, heldCalibration),
          process,
          device.setting,
        ),
      )
    const [from, to] = [error(before), error(change.held)]
    if (from === null || to === null) continue
    const of = found.get(installation.id) ?? []
    found.set(installation.id, of)
    of.push({ at: change.at.getTime(), shift: to - from })
  }
  return found
}

/** Numbers are on their way while a visit is open. */
async function isVisited(db: Database, installationId: number): Promise<boolean> {
  const [open] = await db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.installationId, installationId), isNull(visits.closedAt)))
    .limit(1)
  return open !== undefined
}

export const numbersText = (model: MeasurementModel, c: CalibrationParameters) => render(parametersSentence(model, c))
