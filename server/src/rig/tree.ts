import { addDays, type RigView } from '@frustum/contract'
import { modelOf, type SensorKind } from '@frustum/core'
import { asc, desc, eq, sql } from 'drizzle-orm'
import { DATES_MS, shownToAll } from '../database/derived.ts'
import type { Database } from '../database/open.ts'
import {
  consumables,
  devices,
  installations,
  operators,
  ownStandards,
  ownTemplates,
  places,
  positionCodes,
  positions,
  sensors,
} from '../database/schema.ts'
import type { LiveValues } from '../devices/liveValues.ts'
import { knownInstruments } from '../instruments/instruments.ts'
import { rowsOf, unfitRows } from '../rounds/overview.ts'
import { installedSensors } from '../sensors.ts'

/** The same as many look at it: what was recorded is read when it has changed, what moves is of this moment. */
export async function rigNow(db: Database, live: LiveValues, now: number): Promise<RigView> {
  const [standing, installed] = await Promise.all([
    shownToAll(db, 'rig', { now, freshMs: DATES_MS }, () => rig(db, live, now)),
    installedSensors(db),
  ])
  const states = new Map((await rowsOf(db, live, installed, now)).map((row) => [row.position, row.state]))
  return {
    ...standing,
    positions: standing.positions.map((p) => ({
      ...p,
      state: states.get(p.code) ?? null,
      live: live.current(p.code),
    })),
  }
}

/** All that a site has: where it measures, with what, what lies in store, and who works there. */
export async function rig(db: Database, live: LiveValues, now: number): Promise<RigView> {
  const installed = await installedSensors(db)
  const states = new Map((await rowsOf(db, live, installed, now)).map((row) => [row.position, row.state]))
  const unfit = new Map((await unfitRows(db, now)).map((row) => [row.position, row.why]))
  const there = new Map(installed.map((i) => [i.position.id, i]))
  const all = await db
    .select({ position: positions, device: devices })
    .from(positions)
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .orderBy(asc(positions.sortOrder), sql`lower(${positions.code})`)
  const past = await db.select().from(positionCodes)
  return {
    places: (await db.select().from(places).orderBy(asc(places.sortOrder), asc(places.name))).map((p) => ({
      id: p.id,
      name: p.name,
      archived: p.archivedAt !== null,
    })),
    positions: all.map(({ position: p, device }) => {
      const occupant = there.get(p.id)
      const model = modelOf(p.kind)
      return {
        id: p.id,
        code: p.code,
        placeId: p.placeId,
        spot: p.spot,
        kind: p.kind,
        quantity: model.quantity(device.setting),
        deviceId: p.deviceId,
        water: p.waterKind,
        sensor: occupant
          ? {
              id: occupant.sensor.id,
              serial: occupant.sensor.serialNumber,
              model: occupant.sensor.model,
              since: occupant.installation.installedAt.getTime(),
            }
          : null,
        state: states.get(p.code) ?? null,
        unfit: unfit.get(p.code) ?? null,
        live: live.current(p.code),
        scale: model.shownScale(device.setting),
        archived: p.archivedAt !== null,
      }
    }),
    devices: (await db.select().from(devices).orderBy(asc(devices.name))).map((d) => ({
      id: d.id,
      name: d.name,
      location: d.location,
      linked: d.connectionId !== null,
      archived: d.archivedAt !== null,
    })),
    spares: await spares(db, new Set(installed.map((i) => i.sensor.id))),
    people: (await db.select().from(operators).orderBy(asc(operators.name))).map((p) => ({
      id: p.id,
      name: p.name,
      initials: p.initials,
      archived: p.archivedAt !== null,
    })),
    consumables: (
      await db
        .select({ consumable: consumables, place: places.name })
        .from(consumables)
        .innerJoin(places, eq(consumables.placeId, places.id))
        .orderBy(asc(consumables.name))
    ).map(({ consumable: c, place }) => ({
      id: c.id,
      name: c.name,
      place,
      everyDays: c.everyDays,
      archived: c.archivedAt !== null,
    })),
    standards: (await db.select().from(ownStandards).orderBy(asc(ownStandards.label))).map((s) => ({
      id: s.id,
      label: s.label,
      kind: s.kind,
      archived: s.archivedAt !== null,
    })),
    templates: (await db.select().from(ownTemplates).orderBy(asc(ownTemplates.name))).map((t) => ({
      id: t.id,
      name: t.name,
      kind: t.kind,
      water: t.waterKind,
      values: { ...t.values },
      archived: t.archivedAt !== null,
    })),
    instruments: await knownInstruments(db),
    codes: [...all.map(({ position }) => position.code), ...past.map((p) => p.code)],
  }
}

/** Sensors that are nowhere in use: in store, resting, or retired. */
async function spares(db: Database, inUse: ReadonlySet<number>): Promise<RigView['spares']> {
  const rows = await db
    .select({ sensor: sensors, code: positions.code })
    .from(sensors)
    .leftJoin(installations, eq(installations.sensorId, sensors.id))
    .leftJoin(positions, eq(installations.positionId, positions.id))
    .orderBy(asc(sensors.id), desc(installations.installedAt))
  const newest = new Map<number, (typeof rows)[number]>()
  for (const row of rows) if (!newest.has(row.sensor.id)) newest.set(row.sensor.id, row)
  return [...newest.values()]
    .filter(({ sensor }) => !inUse.has(sensor.id))
    .map(({ sensor: s, code }) => ({
      id: s.id,
      serial: s.serialNumber,
      kind: s.kind as SensorKind,
      model: s.model,
      storage: s.storage,
      boughtOn: s.boughtOn,
      goodUntil: s.boughtOn && s.keepsDays ? addDays(s.boughtOn, s.keepsDays) : null,
      lastAt: code,
      archived: s.archivedAt !== null,
    }))
}
