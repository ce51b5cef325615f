import { createHash } from 'node:crypto'
import type { Mapping, Subject } from '@frustum/contract'
import { formSchema, limitsSchema } from '@frustum/contract'
import { CHECK_FIRST, INTERVAL_METHODS, sensorKinds } from '@frustum/core'
import { asc, eq, getTableColumns } from 'drizzle-orm'
import type { PgTable } from 'drizzle-orm/pg-core'
import type { AnyObjectSchema } from 'yup'
import type { Database, Transaction } from '../database/open.ts'
import { DamagedRow } from '../database/parsedJson.ts'
import {
  connections,
  consumables,
  devices,
  imports,
  installations,
  instruments,
  operators,
  ownStandards,
  ownTemplates,
  photos,
  places,
  positionCodes,
  positions,
  schoolChoices,
  sensors,
  sites,
  solutionLots,
} from '../database/schema.ts'
import { findProtocol, protocols, schemeOf } from '../devices/protocols/registry.ts'
import { readBody } from '../http/validate.ts'
import { keepPhoto } from '../photos/photos.ts'
import { Problem } from '../problem.ts'
import { findThing } from '../rig/things.ts'
import { practicesAt } from '../sensors.ts'
import { withDocument } from './document.ts'
import { lookedAtUnless } from './lookedAt.ts'

interface Part {
  table: PgTable
  /** Columns that name a row of another part. */
  refers?: Readonly<Record<string, string>>
  /** Missing in files of before there were any. */
  optional?: true
  /** What its rows are changed as, by whose fields they are checked. */
  subject?: Subject
}

/** All that a site is made of, each after what it refers to. Visits are records and have a file of their own. */
const PARTS: Readonly<Record<string, Part>> = {
  people: { table: operators, subject: 'person' },
  places: { table: places, subject: 'place' },
  connections: { table: connections, optional: true },
  devices: { table: devices, refers: { connectionId: 'connections' }, subject: 'device' },
  positions: { table: positions, refers: { placeId: 'places', deviceId: 'devices' }, subject: 'position' },
  formerCodes: { table: positionCodes, refers: { positionId: 'positions' } },
  sensors: { table: sensors, subject: 'sensor' },
  installations: {
    table: installations,
    refers: { sensorId: 'sensors', positionId: 'positions', deviceId: 'devices' },
  },
  consumables: { table: consumables, refers: { placeId: 'places' }, subject: 'consumable' },
  standards: { table: ownStandards, subject: 'standard', optional: true },
  templates: { table: ownTemplates, subject: 'template', optional: true },
  lots: { table: solutionLots },
  instruments: { table: instruments },
}

/** Of the site itself, and so not in its parts. */
const LEFT_OUT = ['siteId']
/** A part of its own: bytes under their hash, no numbered rows. */
const PHOTOS = 'photos'
const FORMAT = 'frustum-set-up'
const VERSION = 1

type Row = Record<string, unknown>

/** The whole set-up as one document; nothing in it is secret. */
export async function exportSetUp(db: Database, now: Date): Promise<Row> {
  const [site] = await db.select().from(sites)
  const parts: Row = {}
  // Rows are numbered within the file, so that it says nothing of the database it comes from.
  const numbers = new Map<string, Map<unknown, number>>()
  for (const [name, { table, refers = {} }] of Object.entries(PARTS)) {
    const rows = ((await db.select().from(table)) as Row[]).toSorted((a, b) => Number(a.id) - Number(b.id))
    numbers.set(name, new Map(rows.map((row, i) => [row.id, i + 1])))
    const numbered = ([key, value]: [string, unknown]) => {
      const part = key === 'id' ? name : refers[key]
      return [key, part ? numbers.get(part)?.get(value) : value]
    }
    parts[name] = rows.map((row) =>
      Object.fromEntries(
        Object.entries(row)
          .filter(([key]) => !LEFT_OUT.includes(key))
          .map(numbered),
      ),
    )
  }
  return {
    format: FORMAT,
    version: VERSION,
    exportedAt: now.toISOString(),
    site: { name: site?.name ?? '', timeZone: site?.timeZone ?? 'UTC' },
    practices: await practicesAt(db, now),
    [PHOTOS]: await photosOf(db),
    ...parts,
  }
}

/**
 * Takes a set-up in where there is no sensor yet, whole or not at all. Returns how many positions it has.
 * @throws Problem with the place in the file and what is wrong there
 */
export async function importSetUp(
  db: Database,
  file: { bytes: Buffer; name: string },
  { take, ...author }: { operator: string; at: Date; take: boolean },
): Promise<number> {
  const document = await readDocument(file.bytes)
  const sha256 = createHash('sha256').update(file.bytes).digest('hex')
  await lookedAtUnless(take, db, async (tx) => {
    await takeSetUp(tx, document, author)
    const report = Object.fromEntries(Object.keys(PARTS).map((name) => [name, (document[name] as Row[])?.length ?? 0]))
    await tx
      .insert(imports)
      .values({ ...author, what: 'set-up', fileName: file.name, sha256, report, doneAt: author.at })
  })
  return (document.positions as Row[]).length
}

const MEMBERS = ['format', 'version', 'site', 'practices'] as const

/** The whole document, each of its lists within bounds. */
async function readDocument(bytes: Buffer): Promise<Row> {
  const lists = Object.fromEntries([...Object.keys(PARTS), PHOTOS].map((name) => [name, MOST_ROWS]))
  return withDocument(bytes, { lists, members: MEMBERS }, async ({ members, lists: there, parts }) => {
    const document: Row = { ...members, ...Object.fromEntries(there.map((name) => [name, []])) }
    for await (const { list, elements } of parts) (document[list] as unknown[]).push(...elements)
    return documentOf(document)
  })
}

/** A set-up as it stands in a file, into a site without sensors. @throws Problem */
export async function takeSetUp(tx: Transaction, document: Row, author: { operator: string; at: Date }): Promise<void> {
  const [there] = await tx.select({ id: positions.id }).from(positions).limit(1)
  if (there) {
    throw new Problem(409, 'set-up-exists', 'This site has sensors already.', {
      detail: 'Nothing was taken in.',
      hint: 'Take a set-up in where there is none yet, in an empty folder; here bring in a list of sensors.',
    })
  }
  const siteId = await siteFor(tx, document.site as Row)
  const practices = document.practices as typeof schoolChoices.$inferInsert.practices
  await tx.insert(schoolChoices).values({ ...author, practices })
  await takePhotos(tx, (document[PHOTOS] ?? []) as Row[], author.at)
  const ids = new Map<string, Map<unknown, number>>()
  for (const [name, part] of Object.entries(PARTS)) {
    const given = new Map<unknown, number>()
    ids.set(name, given)
    for (const [i, row] of ((document[name] ?? []) as Row[]).entries()) {
      const place = `${name}[${i + 1}]`
      const known = name === 'people' ? await personCalled(tx, row.name) : null
      const id = known ?? (await insertRow(tx, part, readRow(part, row, ids, place), { siteId, place }))
      given.set(row.id, id)
    }
  }
  for (const [name, { subject }] of Object.entries(PARTS)) {
    if (subject) await checkAll(tx, name, subject, [...(ids.get(name)?.values() ?? [])])
  }
}

/** Photos of devices: those of records are theirs. */
async function photosOf(db: Database): Promise<Row[]> {
  const rows = await db
    .selectDistinct({ sha256: photos.sha256, bytes: photos.bytes })
    .from(photos)
    .innerJoin(devices, eq(devices.photo, photos.sha256))
    .orderBy(asc(photos.sha256))
  return rows.map(({ sha256, bytes }) => ({ sha256, base64: bytes.toString('base64') }))
}

/** @throws Problem where one is no photo, or another than it is called */
async function takePhotos(tx: Transaction, rows: readonly Row[], at: Date): Promise<void> {
  for (const [i, { sha256, base64 }] of rows.entries()) {
    const place = `photos[${i + 1}]`
    const kept = await keepPhoto(tx, Buffer.from(String(base64), 'base64'), at).catch(() => {
      throw refused(place, 'is no photo')
    })
    if (kept.photo !== sha256) throw refused(`${place}.sha256`, 'is that of another photo')
  }
}

const refused = (place: string, why: string) =>
  new Problem(400, 'invalid-file', `${place} ${why}.`, {
    detail: 'Nothing was taken in.',
    hint: 'Put it right in the file, or export it again.',
  })

const isRow = (value: unknown): value is Row => typeof value === 'object' && value !== null && !Array.isArray(value)

const MOST_ROWS = 20_000

function documentOf(file: unknown): Row {
  if (!isRow(file) || file.format !== FORMAT) throw refused('The file', 'is no set-up of Frustum')
  if (file.version !== VERSION) throw refused('The file', 'was written by another version of Frustum')
  if (!isRow(file.site) || typeof file.site.name !== 'string') throw refused('site.name', 'is missing')
  if (!isRow(file.practices)) throw refused('practices', 'is missing')
  for (const name of [...Object.keys(PARTS), PHOTOS]) {
    const rows = file[name]
    if (rows === undefined && (PARTS[name]?.optional || name === PHOTOS)) continue
    if (!Array.isArray(rows)) throw refused(name, 'is no list')
    if (rows.length > MOST_ROWS) throw refused(name, `has more than ${MOST_ROWS} rows`)
    rows.forEach((row, i) => {
      if (!isRow(row)) throw refused(`${name}[${i + 1}]`, 'is no row')
    })
  }
  return file
}

async function siteFor(tx: Transaction, { name, timeZone }: Row): Promise<number> {
  const [known] = await tx.select().from(sites)
  if (known) return known.id
  const zone = Intl.supportedValuesOf('timeZone').includes(String(timeZone)) ? String(timeZone) : 'UTC'
  const [made] = await tx
    .insert(sites)
    .values({ name: String(name), timeZone: zone })
    .returning()
  return made?.id as number
}

async function personCalled(tx: Transaction, name: unknown): Promise<number | null> {
  const people = await tx.select().from(operators)
  return people.find((p) => p.name.toLowerCase() === String(name).toLowerCase())?.id ?? null
}

/** Values that are a choice of ours, where the database takes any text. */
const CHOICES: Readonly<Record<string, () => readonly string[]>> = {
  kind: sensorKinds,
  method: () => INTERVAL_METHODS,
  checkFirst: () => CHECK_FIRST,
  protocol: () => protocols().map((p) => p.key),
}

const isOf = (schema: AnyObjectSchema | undefined, value: unknown) =>
  schema?.isValidSync(value, { strict: true }) === true

/** Whether a value is one that the page of a connection or of alarms would take. */
const POSSIBLE: Readonly<Record<string, (value: unknown, row: Row) => boolean>> = {
  settings: (value, { protocol }) => isOf(findProtocol(String(protocol))?.settings, value),
  address: (value) => protocols().some(({ address }) => isOf(address, value)),
  mapping: (value) => schemeOf(value as Mapping) !== undefined,
  limits: (value) => isOf(limitsSchema, value),
}

/** A row as the database takes it, each value of its column's type, each reference as it is numbered here. */
function readRow(
  { table, refers = {} }: Part,
  row: Row,
  ids: ReadonlyMap<string, ReadonlyMap<unknown, number>>,
  place: string,
): Row {
  const values: Row = {}
  for (const [key, column] of Object.entries(getTableColumns(table))) {
    if (key === 'id' || LEFT_OUT.includes(key)) continue
    const value = row[key]
    const at = `${place}.${key}`
    const part = refers[key]
    if (value === undefined || value === null) {
      if (column.notNull && !column.hasDefault) throw refused(at, 'is missing')
      if (value === null && !column.notNull) values[key] = null
    } else if (part) {
      const id = ids.get(part)?.get(value)
      if (id === undefined) throw refused(at, `names none of the ${part}`)
      values[key] = id
    } else values[key] = typedValue(column, value, at)
    const isPossible = table === connections || table === devices || table === positions ? POSSIBLE[key] : undefined
    if (isPossible && value !== null && value !== undefined && !isPossible(value, row))
      throw refused(at, 'is not possible')
    const choices = table === instruments ? undefined : CHOICES[key]?.()
    if (choices && values[key] !== undefined && !choices.includes(String(values[key]))) {
      throw refused(at, 'is no choice that is known')
    }
  }
  return values
}

function typedValue(
  column: { dataType: string; mapFromDriverValue(value: unknown): unknown },
  value: unknown,
  at: string,
) {
  switch (column.dataType) {
    case 'number':
      if (typeof value === 'number' && Number.isFinite(value)) return value
      throw refused(at, 'is no number')
    case 'boolean':
      if (typeof value === 'boolean') return value
      throw refused(at, 'is no yes or no')
    case 'date': {
      const date = new Date(String(value))
      if (!Number.isNaN(date.getTime())) return date
      throw refused(at, 'is no instant')
    }
    case 'string':
      if (typeof value === 'string' && value.length <= 2000) return value
      throw refused(at, 'is no text')
    default:
      try {
        return column.mapFromDriverValue(value)
      } catch (error) {
        if (error instanceof DamagedRow) throw refused(at, 'cannot be read')
        throw error
      }
  }
}

async function insertRow(
  tx: Transaction,
  { table }: Part,
  values: Row,
  { siteId, place }: { siteId: number; place: string },
): Promise<number> {
  const ofSite = 'siteId' in getTableColumns(table) ? { siteId } : {}
  // Each row by itself: the database's own "no" is told with the place of the row.
  const [made] = (await tx
    .transaction((own) =>
      own
        .insert(table)
        .values({ ...values, ...ofSite } as never)
        .returning(),
    )
    .catch(() => {
      throw refused(place, 'cannot be taken in as it stands')
    })) as { id: number }[]
  return made?.id as number
}

/** What a form would not take is not taken from a file. */
async function checkAll(tx: Transaction, name: string, subject: Subject, ids: readonly number[]): Promise<void> {
  for (const [i, id] of ids.entries()) {
    const place = `${name}[${i + 1}]`
    try {
      const thing = await findThing(tx, subject, id)
      if (!thing) continue
      await readBody(formSchema(thing.fields), { ...thing.shown })
      await thing.check?.(tx, thing.stored)
    } catch (error) {
      if (error instanceof Problem) throw refused(place, `is not possible: ${error.message.replace(/\.$/, '')}`)
      if (error instanceof RangeError) throw refused(place, 'is not possible')
      throw error
    }
  }
}
