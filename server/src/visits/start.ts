import { randomUUID } from 'node:crypto'
import { formSchema, formValues } from '@frustum/contract'
import {
  commissioningFields,
  DAY_MS,
  diagnosed,
  type FieldSpec,
  heldFields,
  heldFor,
  kindOf,
  modelOf,
  type Procedure,
  procedureOf,
  RETIRE,
  type SensorKind,
  standardOf,
  statedHeld,
} from '@frustum/core'
import { and, desc, eq, inArray, isNull, ne } from 'drizzle-orm'
import { cachedForecasts, siteHealth } from '../ageing/computed.ts'
import { noteRetirement, type Proposed, proposedCauses } from '../ageing/confirmedCauses.ts'
import { outsideAt } from '../ageing/forecasts.ts'
import type { Database, Transaction } from '../database/open.ts'
import {
  deviceCalibrations,
  devices,
  driftObservations,
  events,
  installations,
  positions,
  sensors,
  visitEntries,
  visits,
} from '../database/schema.ts'
import { checkDeviceCalibration } from '../devices/deviceCalibration.ts'
import type { Links } from '../devices/links.ts'
import { readBody } from '../http/validate.ts'
import { noteMoved } from '../moved.ts'
import { notFound, Problem } from '../problem.ts'
import { standingFacts } from '../records/setup.ts'
import { takeSnapshot } from '../records/snapshot.ts'
import {
  calibrationInForce,
  currentCode,
  type Installed,
  installedAt,
  installedById,
  sensorBySerial,
} from '../sensors.ts'
import type { Actor } from './actor.ts'

export interface StartRequest extends Actor {
  position: string
  procedure: string
  standards: Record<string, string>
  opening: Record<string, string | number | boolean>
  trip?: string | undefined
  override?: string | undefined
}

/** Begins a visit at a position, or finds the one that is open there. Returns its id. */
export async function startVisit(db: Database, links: Links, asked: StartRequest, now: Date): Promise<string> {
  const body = { ...asked, position: await currentCode(db, asked.position) }
  const procedure = procedureOf(body.procedure)
  const installed = procedure.baseline ? null : await installedAt(db, body.position)
  if (installed) {
    const open = await openVisitOf(db, installed.installation.id)
    if (open) return open
  }
  const standards = checkStandards(procedure, body.standards)
  // What is found is an error of the device as it is now: a device that lost its numbers must be known to have.
  if (installed) await checkDeviceCalibration(db, links, installed, now)
  const { opening, held } = await readOpening(db, procedure, body, now)
  const unmet = installed ? await unmetPrerequisites(db, installed, procedure, now.getTime()) : []
  if (unmet.length > 0 && !body.override) {
    throw new Problem(409, 'prerequisites', `${unmet.map((u) => u.position).join(' and ')} should come first.`, {
      detail: unmet[0]?.why ?? '',
      hint: 'Calibrate those first, or go on with a reason.',
    })
  }
  const old = procedure.baseline ? await occupant(db, body.position) : null
  const proposed = old ? await proposedCauses(db, old.id, now.getTime()) : []
  const health = installed && (await siteHealth(db, now.getTime())).get(installed.installation.id)
  const forecasts = await cachedForecasts(db, now.getTime())
  const outside = ({ installation, position }: Pick<Installed, 'installation' | 'position'>) => {
    const forecast = forecasts.get(installation.id)
    return forecast && outsideAt(forecast, position.tolerance, now.getTime())
  }
  return db.transaction(async (tx) => {
    // Somebody else, or a second press, may have been faster while the device was asked.
    const begun = installed && (await openVisitOf(tx, installed.installation.id))
    if (begun) return begun
    const installationId = installed?.installation.id ?? (await commission(tx, body, opening, now, proposed))
    const visited = await installedById(tx, installationId)
    if (Object.keys(held).length > 0) {
      await tx
        .insert(deviceCalibrations)
        .values({ installationId, at: now, held, given: held, operator: body.operator })
    }
    if (!kindOf(visited.position.kind).procedures.includes(procedure)) {
      throw new Problem(409, 'wrong-kind', 'This procedure is not for a sensor of that kind.', {
        hint: 'Choose one of those that are offered.',
      })
    }
    const id = randomUUID()
    const settings = { standards, opening }
    const snapshot = await takeSnapshot(
      tx,
      { installed: visited, procedure, settings },
      {
        startedAt: now,
        live: links.live,
        outside,
        diagnosed: health ? diagnosed(health.diagnosis) : null,
        known: 'at its start',
      },
    )
    await tx.insert(visits).values({
      id,
      installationId,
      procedure: procedure.id,
      settings,
      snapshot,
      tripId: body.trip ?? null,
      operator: body.operator,
      startedAt: now,
      holderClient: body.clientId,
      holderName: body.operator,
      heldSince: now,
    })
    if (unmet.length > 0) {
      await tx.insert(visitEntries).values({
        visitId: id,
        seq: 1,
        at: now,
        operator: body.operator,
        entry: {
          type: 'overridden',
          rule: `${unmet.map((u) => u.position).join(', ')} first`,
          reason: body.override ?? '',
        },
      })
    }
    return id
  })
}

async function openVisitOf(db: Database | Transaction, installationId: number): Promise<string | null> {
  const [open] = await db
    .select({ id: visits.id })
    .from(visits)
    .where(and(eq(visits.installationId, installationId), isNull(visits.closedAt)))
  return open?.id ?? null
}

function checkStandards(procedure: Procedure, chosen: Record<string, string>): Record<string, string> {
  const standards: Record<string, string> = {}
  for (const { role, label } of procedure.roles) {
    const code = chosen[role]
    if (!code) {
      throw new Problem(400, 'invalid', `Choose the ${label.toLowerCase()}.`, {
        fields: { [role]: `Choose the ${label.toLowerCase()}.` },
      })
    }
    standards[role] = standardOf(code).code
  }
  const codes = Object.values(standards)
  if (new Set(codes).size < codes.length) {
    throw new Problem(400, 'invalid', 'Two of the standards are the same; a slope needs different ones.', {
      fields: Object.fromEntries(procedure.roles.map((r) => [r.role, 'Choose different standards.'])),
    })
  }
  return standards
}

async function readOpening(db: Database, procedure: Procedure, body: StartRequest, now: Date) {
  const [place] = await db
    .select({ position: positions, device: devices })
    .from(positions)
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .where(eq(positions.code, body.position))
  if (!place) throw notFound('position')
  const fields = await openingFields(db, procedure, place, now)
  const typed = await readBody(formSchema(fields), body.opening)
  const opening = formValues(fields, typed as Record<string, unknown>)
  return { opening, held: statedHeld(modelOf(place.position.kind), opening) }
}

/** What is asked before a visit: what the device computes with, where nobody knows it, and which sensor is new. */
export async function openingFields(
  db: Database,
  procedure: Procedure,
  place: Pick<Installed, 'position' | 'device'>,
  now: Date,
): Promise<readonly FieldSpec[]> {
  const { position, device } = place
  const model = modelOf(position.kind)
  const [latest] = await db
    .select()
    .from(installations)
    .where(and(eq(installations.positionId, position.id), eq(installations.deviceId, device.id)))
    .orderBy(desc(installations.installedAt))
    .limit(1)
  const known = latest ? await calibrationInForce(db, latest.id, now) : {}
  const { unknownParameters = [] } = heldFor(model, known, standingFacts(place))
  return [
    ...(procedure.baseline ? commissioningFields((await occupant(db, position.code)) !== null) : []),
    ...(procedure.id === RETIRE.id ? [] : heldFields(model, unknownParameters)),
  ]
}

async function occupant(db: Database | Transaction, code: string) {
  const [found] = await db
    .select({ installation: installations })
    .from(installations)
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .where(and(eq(positions.code, code), isNull(installations.removedAt)))
  return found?.installation ?? null
}

/** Puts a new sensor in its place; one that is still there is retired with the cause that was given. */
async function commission(
  tx: Transaction,
  body: StartRequest,
  opening: Record<string, string | number | boolean>,
  now: Date,
  proposed: Proposed,
): Promise<number> {
  const [position] = await tx.select().from(positions).where(eq(positions.code, body.position))
  if (!position) throw notFound('position')
  const old = await occupant(tx, body.position)
  if (old) {
    if (await openVisitOf(tx, old.id)) {
      throw new Problem(409, 'visit-open', 'A visit at the old sensor is still open.', {
        hint: 'Finish or end that one first.',
      })
    }
    await tx.insert(events).values({
      installationId: old.id,
      at: now,
      kind: 'retired',
      note: String(opening.cause ?? 'unknown'),
    })
    await noteRetirement(tx, {
      installationId: old.id,
      at: now,
      operator: body.operator,
      cause: opening.cause,
      proposed,
    })
    await tx.update(installations).set({ removedAt: now }).where(eq(installations.id, old.id))
  }
  const known = await sensorBySerial(tx, String(opening.serial ?? ''), position.kind)
  if (known?.installation && known.installation.removedAt === null) {
    throw new Problem(409, 'installed-elsewhere', `Sensor ${known.sensor.serialNumber} is at ${known.code} now.`, {
      detail: 'One sensor cannot be at two positions.',
      hint: 'Retire it there first, or correct the serial number.',
      fields: { serial: `At ${known.code} now.` },
    })
  }
  const sensorId = known?.sensor.id ?? (await newSensor(tx, position.kind, opening))
  const [made] = await tx
    .insert(installations)
    .values({ sensorId, positionId: position.id, deviceId: position.deviceId, installedAt: now })
    .returning()
  const installationId = (made as { id: number }).id
  if (known?.installation && known.code !== position.code) {
    // What is known of a sensor goes with it; the water it is in now does something else to it.
    await noteMoved(tx, { installationId, from: known.code ?? '', at: now, operator: null })
  }
  return installationId
}

async function newSensor(tx: Transaction, kind: SensorKind, opening: StartRequest['opening']): Promise<number> {
  const [sensor] = await tx
    .insert(sensors)
    .values({ serialNumber: String(opening.serial ?? ''), kind, model: String(opening.model ?? '') })
    .returning()
  return (sensor as { id: number }).id
}

export interface Unmet {
  position: string
  since: number | null
  why: string
}

/** Sensors on the same body that should have been calibrated, or checked, before this one. */
export async function unmetPrerequisites(
  db: Database,
  installed: Installed,
  procedure: Procedure,
  now: number,
): Promise<Unmet[]> {
  const { position } = installed
  if (!position.body) return []
  const unmet: Unmet[] = []
  for (const { kinds, withinDays, why } of procedure.prerequisites ?? []) {
    const others = await db
      .select({ position: positions, installation: installations })
      .from(installations)
      .innerJoin(positions, eq(installations.positionId, positions.id))
      .where(
        and(
          eq(positions.body, position.body),
          inArray(positions.kind, [...kinds]),
          ne(positions.id, position.id),
          isNull(installations.removedAt),
        ),
      )
    for (const other of others) {
      const [last] = await db
        .select({ at: driftObservations.at })
        .from(driftObservations)
        .where(eq(driftObservations.installationId, other.installation.id))
        .orderBy(desc(driftObservations.at))
        .limit(1)
      if (!last || now - last.at.getTime() > withinDays * DAY_MS) {
        unmet.push({ position: other.position.code, since: last?.at.getTime() ?? null, why })
      }
    }
  }
  return unmet
}
