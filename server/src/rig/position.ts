import type { Mapping } from '@frustum/contract'
import {
  codeKey,
  type FieldSpec,
  isSameWater,
  modelOf,
  nullIfOutOfRange,
  placingFields,
  ruleFields,
  shownValue,
  standingFields,
  TAKEN_ON,
  valueShown,
  type Water,
} from '@frustum/core'
import { and, eq, inArray, isNull, ne, sql } from 'drizzle-orm'
import { differing } from '../ageing/otherSetUp.ts'
import { type Values, wordsOf } from '../changes/changes.ts'
import { positionWords } from '../changes/ruleWords.ts'
import type { Database, Transaction } from '../database/open.ts'
import {
  devices,
  events,
  installations,
  places,
  positionCodes,
  positions,
  sensors,
  visits,
} from '../database/schema.ts'
import { mappingText } from '../devices/mapping/mappingText.ts'
import { Problem } from '../problem.ts'
import { SENSOR_FIELD } from './sensorMoves.ts'
import { type Finder, plainRead, plainShown, type Thing, typedText } from './thing.ts'

type Position = typeof positions.$inferSelect
type Device = typeof devices.$inferSelect

const listOf = async (db: Database | Transaction, column: typeof positions.body | typeof positions.water) =>
  (await db.selectDistinct({ word: column }).from(positions)).flatMap(({ word }) => word ?? [])

/** Fields that are stored otherwise than they stand in the form. */
const inForm = (position: Position, device: Device): Record<string, string> => {
  const { kind, processValue, processTemperature } = position
  const shown = shownValue(kind, processValue, processTemperature, device.setting)
  return {
    processValue: shown === null ? '' : typedText(shown),
    reliability: typedText(100 * position.reliability),
  }
}

/** A position with its rules. */
export const findPosition: Finder = async (db, id) => {
  const [found] = await db
    .select({ position: positions, device: devices, place: places })
    .from(positions)
    .innerJoin(devices, eq(positions.deviceId, devices.id))
    .innerJoin(places, eq(positions.placeId, places.id))
    .where(eq(positions.id, id))
  if (!found) return null
  const { position, device, place } = found
  const choices = <T extends { id: number; name: string; archivedAt: Date | null }>(rows: T[], now: number) =>
    rows
      .filter((r) => r.archivedAt === null || r.id === now)
      .map(({ id: value, name }) => ({ value: String(value), label: name }))
  const placesNow = choices(await db.select().from(places), position.placeId)
  const allDevices = await db.select().from(devices)
  const devicesNow = choices(allDevices, position.deviceId)
  const fields: FieldSpec[] = [
    ...placingFields(),
    { key: 'placeId', label: 'Place', kind: 'choice', choices: placesNow },
    { key: 'deviceId', label: 'Read by', kind: 'choice', choices: devicesNow },
    ...ruleFields(position.kind, device.setting),
    ...standingFields(await listOf(db, positions.body), await listOf(db, positions.water)),
  ]
  const stored = storedOf(position)
  const been = await db
    .select({ id: sensors.id, serial: sensors.serialNumber })
    .from(installations)
    .innerJoin(sensors, eq(installations.sensorId, sensors.id))
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .where(eq(positions.kind, position.kind))
  const serials = new Map(been.map((s) => [s.id, s.serial]))
  const words = positionWords({ position, device })
  const placings = wordsOf(fields)
  return {
    id,
    title: `${position.code}, ${place.name}`,
    fields,
    stored,
    shown: { ...plainShown(stored), ...inForm(position, device) },
    read: (values) => {
      const read = plainRead(fields, values)
      const temperature = Number(read.processTemperature)
      return {
        ...read,
        processValue:
          values.processValue === undefined
            ? position.processValue
            : readValue(position, device, Number(values.processValue), temperature),
        reliability: Number(read.reliability) / 100,
        placeId: Number(read.placeId),
        deviceId: Number(read.deviceId),
        consequence: Number(read.consequence),
        // What stands where in one device says nothing of another.
        mapping: Number(read.deviceId) === position.deviceId ? (stored.mapping ?? null) : null,
        // What was left empty is nothing, where nothing is stored as such.
        ...Object.fromEntries(NULLABLE.map((key) => [key, read[key] === '' ? null : (read[key] ?? null)])),
      }
    },
    words: (field) => {
      if (field === SENSOR_FIELD) {
        return {
          title: 'Its sensor',
          said: (value) => serials.get(Number(value)) || `sensor ${value}, without a number`,
        }
      }
      if (field === 'mapping') {
        return { title: 'Read over its line', said: (value) => mappingText(JSON.parse(String(value)) as Mapping) }
      }
      return field === 'placeId' || field === 'deviceId' ? placings(field) : words(field)
    },
    archived: position.archivedAt !== null,
    ...(await standingOf(db, position)),
    turning: (after) => {
      const fields = differing('position', stored, after)
      const as = { value: Number(after.processValue), temperature: Number(after.processTemperature) }
      const was = { value: position.processValue, temperature: position.processTemperature }
      return isSameWater(modelOf(position.kind), was, as)
        ? fields.filter((field) => !field.startsWith('process'))
        : fields
    },
    changed: (after, i) => {
      if (i.position.id !== id) return null
      const { cautions: _, mapping: _line, ...rest } = after
      const read = allDevices.find((d) => d.id === Number(after.deviceId)) ?? i.device
      return { ...i, position: { ...i.position, ...(rest as Partial<Position>) }, device: read }
    },
    check: async (tx, after) => {
      if (Number(after.floorDays) > Number(after.ceilingDays)) {
        throw new Problem(409, 'rules-cross', 'The shortest interval would be longer than the longest.', {
          detail: 'Nothing was changed.',
          hint: 'Undo the change of the other one first, or set both.',
          fields: { ceilingDays: 'Not shorter than the shortest interval.' },
        })
      }
      await checkCode(tx, String(after.code), id)
    },
    save: async (tx, values) => {
      const { cautions, code, mapping } = values
      await tx
        .update(positions)
        .set({
          ...(values as Partial<Position>),
          ...(cautions === undefined ? {} : { cautions: linesOf(cautions) }),
          ...(mapping === undefined
            ? {}
            : { mapping: mapping === null ? null : (JSON.parse(String(mapping)) as Mapping) }),
        })
        .where(eq(positions.id, id))
      // What printed labels and kept addresses say leads here still.
      if (code !== undefined && code !== position.code) {
        await tx.insert(positionCodes).values({ positionId: id, code: position.code, until: new Date() })
      }
      if (values.deviceId !== undefined) {
        await tx
          .update(installations)
          .set({ deviceId: Number(values.deviceId) })
          .where(and(eq(installations.positionId, id), isNull(installations.removedAt)))
      }
    },
    archive: async (tx, at) => {
      await tx.update(positions).set({ archivedAt: at }).where(eq(positions.id, id))
    },
    delete: async (tx) => {
      const there = tx.select({ id: installations.id }).from(installations).where(eq(installations.positionId, id))
      await tx.delete(events).where(and(inArray(events.installationId, there), eq(events.kind, TAKEN_ON.kind)))
      await tx.delete(installations).where(eq(installations.positionId, id))
      await tx.delete(positionCodes).where(eq(positionCodes.positionId, id))
      await tx.delete(positions).where(eq(positions.id, id))
    },
  } satisfies Thing
}

const NULLABLE = ['startingDays', 'waterKind', 'authorityRule', 'authorityDays', 'body', 'water'] as const

export const linesOf = (text: unknown): string[] =>
  String(text ?? '')
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '')

const storedOf = (p: Position): Values => ({
  code: p.code,
  spot: p.spot,
  placeId: p.placeId,
  deviceId: p.deviceId,
  processValue: p.processValue,
  processTemperature: p.processTemperature,
  tolerance: p.tolerance,
  startingDays: p.startingDays,
  floorDays: p.floorDays,
  ceilingDays: p.ceilingDays,
  reliability: p.reliability,
  consequence: p.consequence,
  spareLeadDays: p.spareLeadDays,
  keepSeconds: p.keepSeconds,
  cautions: p.cautions.join('\n'),
  mapping: p.mapping && JSON.stringify(p.mapping),
  waterKind: p.waterKind as Water | null,
  authorityRule: p.authorityRule,
  authorityDays: p.authorityDays,
  body: p.body,
  water: p.water,
  sortOrder: p.sortOrder,
  note: p.note,
})

/** The value behind what was typed; one that did not move stays exactly what it was. */
function readValue(position: Position, device: Device, shown: number, temperature: number): number {
  const { processValue, processTemperature } = position
  if (typedText(shown) === inForm(position, device).processValue && temperature === processTemperature) {
    return processValue
  }
  const value = nullIfOutOfRange(() => valueShown(position.kind, shown, temperature, device.setting))
  if (value === null || !Number.isFinite(value)) {
    throw refused({ processValue: 'At this temperature the device cannot show that.' })
  }
  return value
}

const refused = (fields: Record<string, string>) =>
  new Problem(400, 'invalid', Object.values(fields)[0] ?? '', { detail: 'Nothing was changed.', fields })

/** A code is one position's alone, whatever its case, also those of before. @throws Problem with a free one */
export async function checkCode(tx: Transaction, code: string, own: number | null): Promise<void> {
  if (!/^[\p{L}\p{N}][\p{L}\p{N} ._-]*$/u.test(code.trim()) || code.length > 40) {
    throw refused({ code: 'Letters, digits, point, dash and space, at most 40.' })
  }
  const others = own === null ? sql`true` : ne(positions.id, own)
  const [taken] = await tx
    .select({ code: positions.code })
    .from(positions)
    .where(and(sql`lower(${positions.code}) = ${codeKey(code)}`, others))
  const [before] = await tx
    .select({ code: positions.code })
    .from(positionCodes)
    .innerJoin(positions, eq(positionCodes.positionId, positions.id))
    .where(and(sql`lower(${positionCodes.code}) = ${codeKey(code)}`, others))
  if (!taken && !before) return
  const free = await freeCode(tx, code)
  throw new Problem(
    409,
    'code-taken',
    taken ? `${taken.code} is there already.` : `${code} was ${before?.code} before.`,
    {
      detail:
        'Nothing was changed. Codes that differ in case only are the same, and an old label still leads to its position.',
      hint: `${free} is free.`,
      fields: { code: `Taken. ${free} is free.` },
    },
  )
}

/** The same code with the next number that is free. */
async function freeCode(tx: Transaction, code: string): Promise<string> {
  const all = [
    ...(await tx.select({ code: positions.code }).from(positions)),
    ...(await tx.select({ code: positionCodes.code }).from(positionCodes)),
  ]
  const used = new Set(all.map((row) => codeKey(row.code)))
  const stem = code.trim().replace(/[-\s]*\d+$/, '')
  let number = 2
  while (used.has(codeKey(`${stem}-${number}`))) number++
  return `${stem}-${number}`
}

/** What stands against taking a position away. */
async function standingOf(
  db: Database | Transaction,
  position: Position,
): Promise<Pick<Thing, 'keptFor' | 'inTheWay'>> {
  const there = await db
    .select({
      visit: visits.id,
      closedAt: visits.closedAt,
      procedure: visits.procedure,
      holder: visits.holderName,
      operator: visits.operator,
    })
    .from(visits)
    .innerJoin(installations, eq(visits.installationId, installations.id))
    .where(eq(installations.positionId, position.id))
  const open = there.find((v) => v.closedAt === null)
  const [occupant] = await db
    .select({ id: installations.id })
    .from(installations)
    .where(and(eq(installations.positionId, position.id), isNull(installations.removedAt)))
  return {
    keptFor: there.length > 0 ? `${position.code} has records.` : null,
    inTheWay: open
      ? {
          message: `A visit is open at ${position.code}: ${open.holder ?? open.operator} has it in hand.`,
          hint: 'Finish or end it first.',
        }
      : occupant
        ? {
            message: `A sensor is in use at ${position.code}.`,
            hint: 'Retire it on the Bench first. What was added by mistake and never visited is deleted.',
          }
        : null,
  }
}

/** Kinds of the sensors that a device reads. */
export async function kindsOn(db: Database | Transaction, deviceId: number) {
  const rows = await db.select({ kind: positions.kind }).from(positions).where(eq(positions.deviceId, deviceId))
  return [...new Set(rows.map((r) => r.kind))]
}
