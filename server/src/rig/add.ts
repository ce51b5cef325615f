import { randomUUID } from 'node:crypto'
import { type AddPositionBody, formSchema, formValues, type Subject } from '@frustum/contract'
import {
  CONSUMABLE_FIELDS,
  deviceFields,
  type FieldSpec,
  kindOf,
  NEW_TEMPLATE_FIELDS,
  newStandardFields,
  type OwnStandard,
  PERSON_FIELDS,
  PLACE_FIELDS,
  placingFields,
  readPrintedValues,
  ruleFields,
  SENSOR_FIELDS,
  type SensorKind,
  sensorKinds,
  settingFields,
  settingOf,
  TAKEN_ON,
  valueShown,
  WATERS,
} from '@frustum/core'
import { and, eq, isNull } from 'drizzle-orm'
import { ADDED, noteChanges } from '../changes/changes.ts'
import type { Database, Transaction } from '../database/open.ts'
import {
  consumables,
  devices,
  events,
  installations,
  operators,
  ownStandards,
  ownTemplates,
  places,
  positions,
  sensors,
  sites,
} from '../database/schema.ts'
import { readBody } from '../http/validate.ts'
import { notFound, Problem } from '../problem.ts'
import { sensorBySerial } from '../sensors.ts'
import { siteCalendar } from '../zone.ts'
import { checkCode, kindsOn, linesOf } from './position.ts'
import { plainRead } from './thing.ts'
import { personRow, sensorRow, templateOf, uniqueName } from './things.ts'

export type Author = { operator: string; at: Date }

export const noteAdded = (tx: Transaction, subject: Subject, id: number, title: string, author: Author) =>
  noteChanges(tx, { subject, id }, author, { before: {}, after: { [ADDED]: title } })

async function siteId(tx: Transaction): Promise<number> {
  const [site] = await tx.select({ id: sites.id }).from(sites)
  if (!site) {
    throw new Problem(409, 'no-site', 'There is no site yet.', { hint: 'Set up the site first: its name and yours.' })
  }
  return site.id
}

/** Sets up a site and its first person. @throws Problem where there is one already */
export async function setUpSite(
  db: Database,
  { name, person, timeZone }: { name: string; person: string; timeZone: string },
  at: Date,
): Promise<void> {
  await db.transaction(async (tx) => {
    const [known] = await tx.select().from(sites)
    if (known) {
      throw new Problem(409, 'site-exists', `This folder holds ${known.name} already.`, {
        detail: 'Nothing was changed.',
        hint: 'Change its name in Rig; for another site use another folder.',
      })
    }
    const [site] = await tx.insert(sites).values({ name, timeZone }).returning()
    const made = await tx
      .insert(operators)
      .values({ siteId: site?.id as number, name: person, role: 'lead' })
      .returning()
    await noteAdded(tx, 'person', made[0]?.id as number, person, { operator: person, at })
  })
}

interface Maker {
  fields: readonly FieldSpec[]
  make(
    tx: Transaction,
    values: ReturnType<typeof plainRead>,
    more: { kind: SensorKind | null; placeId: number | null; at: Date },
  ): Promise<{ id: number }[]>
}

const required = (rows: { id: number }[]): number => (rows[0] as { id: number }).id

const MAKERS: Partial<Record<Subject, Maker>> = {
  place: {
    fields: PLACE_FIELDS,
    make: async (tx, values) => {
      await uniqueName(tx, places, values.name, null, 'place')
      return tx
        .insert(places)
        .values({ siteId: await siteId(tx), water: '', ...(values as { name: string }) })
        .returning()
    },
  },
  person: {
    fields: PERSON_FIELDS,
    make: async (tx, values) => {
      await uniqueName(tx, operators, values.name, null, 'person')
      return tx
        .insert(operators)
        .values({ siteId: await siteId(tx), ...(personRow(values) as { name: string }) })
        .returning()
    },
  },
  consumable: {
    fields: CONSUMABLE_FIELDS,
    make: async (tx, values, { placeId, at }) => {
      const [place] = placeId === null ? [] : await tx.select().from(places).where(eq(places.id, placeId))
      if (!place) throw new Problem(400, 'invalid', 'Choose the place.', { fields: { placeId: 'Choose the place.' } })
      return tx
        .insert(consumables)
        .values({ placeId: place.id, since: at, ...(values as { name: string; everyDays: number; leadDays: number }) })
        .returning()
    },
  },
  sensor: {
    fields: SENSOR_FIELDS,
    make: async (tx, values, { kind, at }) => {
      if (!kind)
        throw new Problem(400, 'invalid', 'Choose what it measures.', { fields: { kind: 'Choose what it measures.' } })
      return tx
        .insert(sensors)
        .values({
          kind,
          ...(sensorRow(values) as { serialNumber: string; model: string }),
          ...(values.boughtOn ? {} : { boughtOn: (await siteCalendar(tx, at.getTime())).today }),
        })
        .returning()
    },
  },
  template: {
    fields: NEW_TEMPLATE_FIELDS,
    make: async (tx, { name, position }) =>
      tx
        .insert(ownTemplates)
        .values({ name: String(name), ...(await templateOf(tx, Number(position))) })
        .returning(),
  },
  standard: {
    fields: newStandardFields(),
    make: async (tx, values) => tx.insert(ownStandards).values(standardFrom(values)).returning(),
  },
}

const MILLI: Readonly<Record<string, number>> = { 'mS/cm': 1000 }

/** A standard as its bottle says it. @throws Problem that names the field */
function standardFrom(values: ReturnType<typeof plainRead>) {
  const kind = sensorKinds().find((k) => k === values.kind)
  const traits = kind && kindOf(kind).ownStandard
  if (!kind || !traits) {
    throw new Problem(400, 'invalid', 'Choose what it is for.', { fields: { kind: 'Choose what it is for.' } })
  }
  const factor = (kindOf(kind).model.coreUnit === 'µS/cm' && MILLI[String(values.unit)]) || 1
  const printed = readPrintedValues(String(values.values ?? ''), traits, factor)
  if ('problem' in printed) throw new Problem(400, 'invalid', printed.problem, { fields: { values: printed.problem } })
  const of = (key: 'against' | 'ion') => (values[key] ? String(values[key]) : null)
  return {
    code: `own-${randomUUID()}`,
    kind,
    label: String(values.label),
    printed,
    uncertainty: typeof values.uncertainty === 'number' ? values.uncertainty : traits.usualUncertainty,
    against: of('against') as OwnStandard['against'],
    ion: of('ion') as OwnStandard['ion'],
    caution: String(values.caution ?? ''),
  }
}

/** Adds a place, a person, a consumable, a spare sensor or a standard of the site's own. Returns its number. */
export async function addThing(
  db: Database,
  subject: Subject,
  {
    operator,
    values: typed,
    kind,
    placeId,
  }: { operator: string; values: Record<string, unknown>; kind?: string | undefined; placeId?: number | undefined },
  at: Date,
): Promise<number> {
  const maker = MAKERS[subject]
  if (!maker) throw notFound('way to add that')
  await readBody(formSchema(maker.fields), typed)
  const read = plainRead(maker.fields, formValues(maker.fields, typed))
  const values = Object.fromEntries(Object.entries(read).filter(([, value]) => value !== null))
  return db.transaction(async (tx) => {
    const of = sensorKinds().find((k) => k === kind) ?? null
    const id = required(await maker.make(tx, values, { kind: of, placeId: placeId ?? null, at }))
    await noteAdded(tx, subject, id, String(values.name ?? values.label ?? values.serialNumber ?? ''), { operator, at })
    return id
  })
}

/**
 * Adds a position with its device and its place, those that are there or new ones, all or nothing.
 * @throws Problem with a sentence a field
 */
export const addPosition = (db: Database, body: AddPositionBody, at: Date): Promise<{ position: string; id: number }> =>
  db.transaction((tx) => addPositionIn(tx, body, at))

/** The same within a transaction; `sensor`: of the one that is at work there. */
export async function addPositionIn(
  tx: Transaction,
  body: AddPositionBody,
  at: Date,
  sensor = { serial: '', model: '' },
): Promise<{ position: string; id: number }> {
  const { kind, water, values: typed, operator, inUse } = body
  const author = { operator, at }
  const known = body.deviceId === undefined ? null : await deviceById(tx, body.deviceId)
  // A device that is there is asked only for what it has to be set to for a kind that it did not read before.
  const isNew = known !== null && !(await kindsOn(tx, known.id)).includes(kind)
  const ofDevice = known ? (isNew ? settingFields([kind]) : []) : deviceFields([kind])
  const asked = [...placingFields(), ...ofDevice]
  await readBody(formSchema(asked), typed)
  const setting = known && !isNew ? known.setting : settingOf([kind], formValues(asked, typed), known?.setting)
  const all = [...asked, ...ruleFields(kind, setting)]
  await readBody(formSchema(all), typed)
  const values = formValues(all, typed)
  if (Number(values.floorDays) > Number(values.ceilingDays)) {
    throw new Problem(400, 'invalid', 'The longest interval is shorter than the shortest.', {
      fields: { ceilingDays: 'Not shorter than the shortest interval.' },
    })
  }
  const temperature = Number(values.processTemperature)
  const processValue = behind(kind, Number(values.processValue), temperature, setting)
  const code = String(values.code).trim()
  await checkCode(tx, code, null)
  const placeId = await placeFor(tx, body, author)
  if (known && isNew) await tx.update(devices).set({ setting }).where(eq(devices.id, known.id))
  const deviceId = known?.id ?? (await newDevice(tx, { body, values, setting, code }, author))
  const made = await tx
    .insert(positions)
    .values({
      placeId,
      deviceId,
      code,
      spot: String(values.spot ?? ''),
      kind,
      processValue,
      processTemperature: temperature,
      tolerance: Number(values.tolerance),
      reliability: Number(values.reliability) / 100,
      startingDays: values.startingDays === undefined ? null : Number(values.startingDays),
      floorDays: Number(values.floorDays),
      ceilingDays: Number(values.ceilingDays),
      consequence: Number(values.consequence),
      spareLeadDays: Number(values.spareLeadDays),
      cautions: linesOf(values.cautions),
      waterKind: water,
    })
    .returning()
  const id = required(made)
  await noteAdded(tx, 'position', id, code, author)
  if (inUse) await takeOn(tx, { id, kind, deviceId }, sensor, at)
  return { position: code, id }
}

function behind(
  kind: SensorKind,
  shown: number,
  temperature: number,
  setting: Parameters<typeof valueShown>[3],
): number {
  try {
    const value = valueShown(kind, shown, temperature, setting)
    if (Number.isFinite(value)) return value
  } catch (error) {
    if (!(error instanceof RangeError)) throw error
  }
  throw new Problem(400, 'invalid', 'At this temperature the device cannot show that.', {
    fields: { processValue: 'At this temperature the device cannot show that.' },
  })
}

async function deviceById(db: Transaction, id: number) {
  const [device] = await db
    .select()
    .from(devices)
    .where(and(eq(devices.id, id), isNull(devices.archivedAt)))
  if (!device)
    throw new Problem(400, 'invalid', 'There is no such device.', { fields: { deviceId: 'Choose one of the list.' } })
  return device
}

async function placeFor(
  tx: Transaction,
  { placeId, placeName, water }: AddPositionBody,
  author: Author,
): Promise<number> {
  if (placeId !== undefined) {
    const [place] = await tx
      .select()
      .from(places)
      .where(and(eq(places.id, placeId), isNull(places.archivedAt)))
    if (place) return place.id
  }
  return placeByName(tx, placeName ?? '', WATERS[water].label, author)
}

/** The place of a name, or a new one with this water. */
export async function placeByName(tx: Transaction, name: string, water: string, author: Author): Promise<number> {
  if (name === '') throw new Problem(400, 'invalid', 'Enter the place.', { fields: { placeName: 'Enter the place.' } })
  const site = await siteId(tx)
  const [same] = (await tx.select().from(places)).filter((p) => p.name.toLowerCase() === name.toLowerCase())
  if (same) return same.id
  const id = required(await tx.insert(places).values({ siteId: site, name, water }).returning())
  await noteAdded(tx, 'place', id, name, author)
  return id
}

interface NewDevice {
  body: AddPositionBody
  values: ReturnType<typeof formValues>
  setting: Parameters<typeof valueShown>[3]
  code: string
}

async function newDevice(tx: Transaction, { body, values, setting, code }: NewDevice, author: Author): Promise<number> {
  const name = body.deviceName || `Device of ${code}`
  const made = await tx
    .insert(devices)
    .values({
      name,
      shows: values.shows === 'signal' ? 'signal' : 'value',
      adjustsBy: values.adjustsBy as typeof devices.$inferInsert.adjustsBy,
      ...(values.calibrationKey ? { calibrationKey: String(values.calibrationKey) } : {}),
      ...(values.whileCalibrating === 'word' ? { whileCalibrating: 'word' as const } : {}),
      setting,
      location: String(values.spot ?? ''),
    })
    .returning()
  const id = required(made)
  await noteAdded(tx, 'device', id, name, author)
  return id
}

/** A sensor that was at work before anybody entered it: what is known of it begins now. */
async function takeOn(
  tx: Transaction,
  position: { id: number; kind: SensorKind; deviceId: number },
  { serial, model }: { serial: string; model: string },
  at: Date,
): Promise<void> {
  const [there] = await tx
    .select()
    .from(installations)
    .where(and(eq(installations.positionId, position.id), isNull(installations.removedAt)))
  if (there) throw new Problem(409, 'occupied', 'A sensor is there already.', { detail: 'Nothing was changed.' })
  const known = await sensorBySerial(tx, serial, position.kind)
  if (known?.installation && known.installation.removedAt === null) {
    throw new Problem(409, 'installed-elsewhere', `Sensor ${serial} is at ${known.code} now.`, {
      detail: 'One sensor cannot be at two positions.',
      hint: 'Take it out there first, or correct the serial number.',
      fields: { serial: `At ${known.code} now.` },
    })
  }
  const sensorId =
    known?.sensor.id ??
    required(await tx.insert(sensors).values({ serialNumber: serial, kind: position.kind, model }).returning())
  const installationId = required(
    await tx
      .insert(installations)
      .values({ sensorId, positionId: position.id, deviceId: position.deviceId, installedAt: at })
      .returning(),
  )
  await tx.insert(events).values({
    installationId,
    at: new Date(at.getTime() + 1),
    kind: TAKEN_ON.kind,
    note: known
      ? 'It comes from store; what is known of it counts on.'
      : 'It was at work before it was entered here; nothing is known of its past.',
  })
}

/** Takes on the sensor that is at a position. Returns the position's code. */
export async function putInUse(
  db: Database,
  id: string,
  { serial, model }: { serial: string; model: string },
  at: Date,
): Promise<string> {
  return db.transaction(async (tx) => {
    const [position] = /^\d{1,9}$/.test(id)
      ? await tx
          .select()
          .from(positions)
          .where(eq(positions.id, Number(id)))
      : []
    if (!position) throw notFound('position')
    await takeOn(tx, position, { serial, model }, at)
    return position.code
  })
}
