import type { CalendarDay, Subject } from '@frustum/contract'
import {
  CONSUMABLE_FIELDS,
  celsius,
  type DeviceSetting,
  deviceFields,
  displayFields,
  displayProblems,
  displayValues,
  exactly,
  kindOf,
  LABEL_FIELDS,
  modelOf,
  outputCurrent,
  PERSON_FIELDS,
  PLACE_FIELDS,
  quantity,
  REFERENCE_ELECTRODES,
  type Role,
  readerFrom,
  SENSOR_FIELDS,
  type Sentence,
  SITE_FIELDS,
  STANDARD_FIELDS,
  type Standard,
  say,
  settingOf,
  settingValues,
  shownValue,
  TEMPLATE_FIELDS,
  withDisplay,
} from '@frustum/core'
import { and, asc, desc, eq, isNotNull, isNull, ne, sql } from 'drizzle-orm'
import { differing } from '../ageing/otherSetUp.ts'
import { type Values, type Words, wordsOf } from '../changes/changes.ts'
import { ruleWords } from '../changes/ruleWords.ts'
import type { Database, Transaction } from '../database/open.ts'
import {
  connections,
  consumableRenewals,
  consumables,
  credentials,
  devices,
  installations,
  operators,
  ownStandards,
  ownTemplates,
  places,
  positions,
  sensors,
  sites,
  solutionLots,
  visits,
} from '../database/schema.ts'
import { lineOf, lineText, saidLine } from '../devices/mapping/mappingText.ts'
import { photoOf } from '../photos/photos.ts'
import { notFound, Problem } from '../problem.ts'
import { findPosition, kindsOn } from './position.ts'
import { type Finder, plainRead, plainShown, type Thing } from './thing.ts'

const findSite: Finder = async (db) => {
  const [site] = await db.select().from(sites)
  if (!site) return null
  const fields = [
    ...SITE_FIELDS,
    {
      key: 'timeZone',
      label: 'Time zone',
      kind: 'choice',
      choices: Intl.supportedValuesOf('timeZone').map((value) => ({ value, label: value.replaceAll('_', ' ') })),
    } as const,
  ]
  const stored = { name: site.name, timeZone: site.timeZone }
  return {
    id: null,
    title: site.name,
    fields,
    stored,
    shown: plainShown(stored),
    read: (values) => plainRead(fields, values),
    words: ruleWords(null, wordsOf(fields)),
    archived: false,
    keptFor: 'The site stays.',
    inTheWay: null,
    save: async (tx, values) => {
      await tx.update(sites).set(values).where(eq(sites.id, site.id))
    },
  }
}

const findPlace: Finder = async (db, id) => {
  const [place] = await db.select().from(places).where(eq(places.id, id))
  if (!place) return null
  const stored = { name: place.name, sortOrder: place.sortOrder, note: place.note }
  const inUse = await db
    .select({ code: positions.code, archivedAt: positions.archivedAt })
    .from(positions)
    .where(eq(positions.placeId, id))
  const waits = await db.select({ id: consumables.id }).from(consumables).where(eq(consumables.placeId, id))
  const active = inUse.filter((p) => p.archivedAt === null).map((p) => p.code)
  return {
    id,
    title: place.name,
    fields: PLACE_FIELDS,
    stored,
    shown: plainShown(stored),
    read: (values) => plainRead(PLACE_FIELDS, values),
    words: wordsOf(PLACE_FIELDS),
    archived: place.archivedAt !== null,
    keptFor: inUse.length + waits.length > 0 ? `Something stands in ${place.name}.` : null,
    inTheWay:
      active.length > 0
        ? {
            message: `${active.join(', ')} stand${active.length === 1 ? 's' : ''} there.`,
            hint: 'Move or archive them first.',
          }
        : null,
    check: (tx, after) => uniqueName(tx, places, after.name, id, 'place'),
    save: async (tx, values) => {
      await tx.update(places).set(values).where(eq(places.id, id))
    },
    archive: async (tx, archivedAt) => {
      await tx.update(places).set({ archivedAt }).where(eq(places.id, id))
    },
    delete: async (tx) => {
      await tx.delete(places).where(eq(places.id, id))
    },
  }
}

const findDevice: Finder = async (db, id) => {
  const [device] = await db.select().from(devices).where(eq(devices.id, id))
  if (!device) return null
  const kinds = await kindsOn(db, id)
  const display = displayFields(kinds, device.setting)
  const fields = [...LABEL_FIELDS, ...deviceFields(kinds), ...display]
  const { name, location, serial, firmware, photo, note, shows, adjustsBy, calibrationKey, whileCalibrating } = device
  const { setting } = device
  const own = { name, location, serial, firmware, photo, note, shows, adjustsBy, calibrationKey, whileCalibrating }
  const line = lineText(device.connectionId, device.address)
  const stored = { ...own, ...settingValues(kinds, setting), ...displayValues(kinds, setting), line }
  const lines = new Map((await db.select().from(connections)).map((c) => [c.id, c]))
  const used = await db.select().from(positions).where(eq(positions.deviceId, id)).orderBy(asc(positions.code))
  const past = await db
    .select({ id: installations.id })
    .from(installations)
    .where(eq(installations.deviceId, id))
    .limit(1)
  const active = used.filter((p) => p.archivedAt === null).map((p) => p.code)
  const settingAfter = (values: Values) => withDisplay(kinds, values, settingOf(kinds, withoutNothing(values), setting))
  return {
    id,
    title: name,
    fields,
    stored,
    shown: plainShown(stored),
    ...outputSentence(used, setting),
    read: (values) => {
      const read = { ...own, ...plainRead(LABEL_FIELDS, values), ...plainRead(display, values), ...values }
      return { ...read, photo: read.photo || null, line }
    },
    words: wordsOf(fields, (field) => ({ title: 'Connected', said: (value) => saidLine(String(value), lines, field) })),
    together: (after) => displayProblems(kinds, after),
    check: async (tx, after) => {
      if (after.photo) await photoOf(tx, String(after.photo))
    },
    archived: device.archivedAt !== null,
    keptFor: used.length + past.length > 0 ? `${name} reads, or has read, a sensor.` : null,
    inTheWay:
      active.length > 0
        ? { message: `${name} reads ${active.join(', ')}.`, hint: 'Give them another device, or archive them first.' }
        : null,
    turning: (after) => differing('device', stored, after),
    changed: (after, i) =>
      i.device.id === id ? { ...i, device: { ...i.device, setting: settingAfter({ ...stored, ...after }) } } : null,
    save: async (tx, values) => {
      await tx
        .update(devices)
        .set({
          ...(Object.fromEntries(Object.entries(values).filter(([key]) => key in own)) as Partial<typeof own>),
          setting: settingAfter({ ...stored, ...values }),
          ...(values.line === undefined ? {} : lineOf(values.line)),
        })
        .where(eq(devices.id, id))
    },
    archive: async (tx, archivedAt) => {
      await tx.update(devices).set({ archivedAt }).where(eq(devices.id, id))
    },
    delete: async (tx) => {
      await tx.delete(devices).where(eq(devices.id, id))
    },
  }
}

/** What an output should give for the usual value of each sensor, to hold against what a controller shows of it. */
function outputSentence(
  used: readonly (typeof positions.$inferSelect)[],
  setting: DeviceSetting,
): Pick<Thing, 'says'> | undefined {
  const lines = used.flatMap(({ code, kind, archivedAt, processValue, processTemperature }) => {
    const shown = archivedAt === null ? shownValue(kind, processValue, processTemperature, setting) : null
    const current = shown === null ? null : outputCurrent(shown, setting.displays?.[kind] ?? {})
    if (shown === null || current === null) return []
    const { unit, decimals } = modelOf(kind).shownScale(setting)
    return [say`${code}: at ${quantity(shown, unit, decimals)} its output gives ${quantity(current, 'mA', 2)}.`]
  })
  const [first, ...rest] = lines
  return first ? { says: rest.reduce<Sentence>((line, next) => say`${line} ${next}`, first) } : undefined
}

const withoutNothing = (values: Readonly<Record<string, string | number | boolean | null>>) =>
  Object.fromEntries(Object.entries(values).filter((e): e is [string, string | number | boolean] => e[1] !== null))

const findSensor: Finder = async (db, id) => {
  const [sensor] = await db.select().from(sensors).where(eq(sensors.id, id))
  if (!sensor) return null
  const { serialNumber, model, storage, keepsDays, travels, note } = sensor
  const boughtOn = sensor.boughtOn ?? ''
  const stored = { serialNumber, model, boughtOn, storage, keepsDays, travels, note }
  const been = await db
    .select({ code: positions.code, removedAt: installations.removedAt })
    .from(installations)
    .innerJoin(positions, eq(installations.positionId, positions.id))
    .where(eq(installations.sensorId, id))
  const now = been.find((b) => b.removedAt === null)
  return {
    id,
    title: serialNumber || 'Sensor without a number',
    fields: SENSOR_FIELDS,
    stored,
    shown: plainShown(stored),
    read: (values) => ({ ...plainRead(SENSOR_FIELDS, values) }),
    words: wordsOf(SENSOR_FIELDS),
    archived: sensor.archivedAt !== null,
    keptFor: been.length > 0 ? 'It is, or was, in use.' : null,
    inTheWay: now ? { message: `It is in use at ${now.code}.`, hint: 'Retire it on the Bench first.' } : null,
    check: async (tx, after) => {
      if (after.serialNumber === '') return
      const [same] = await tx
        .select({ id: sensors.id })
        .from(sensors)
        .where(
          and(eq(sensors.serialNumber, String(after.serialNumber)), eq(sensors.kind, sensor.kind), ne(sensors.id, id)),
        )
      if (same) throw taken('serialNumber', 'Another sensor of this kind has that number.')
    },
    save: async (tx, values) => {
      await tx.update(sensors).set(sensorRow(values)).where(eq(sensors.id, id))
    },
    archive: async (tx, archivedAt) => {
      await tx.update(sensors).set({ archivedAt }).where(eq(sensors.id, id))
    },
    delete: async (tx) => {
      await tx.delete(sensors).where(eq(sensors.id, id))
    },
  }
}

/** A sensor as it is stored. */
export const sensorRow = ({ boughtOn, ...values }: Values) => ({
  ...values,
  ...(boughtOn === undefined ? {} : { boughtOn: (boughtOn || null) as CalendarDay | null }),
})

/** A person as it is stored: how somebody reads numbers stands together. */
export function personRow({ name, initials, role, ...chosen }: Values, reader: Readonly<Record<string, string>> = {}) {
  const choices = Object.entries(chosen).map(([topic, choice]) => [topic, String(choice ?? '')])
  return {
    ...(name === undefined ? {} : { name: String(name) }),
    ...(initials === undefined ? {} : { initials: String(initials ?? '') }),
    ...(role ? { role: role as Role } : {}),
    reader: { ...reader, ...Object.fromEntries(choices) },
  }
}

const LAST_LEAD = (name: string) => ({
  message: `${name} is the only lead with a password.`,
  hint: 'Make somebody else a lead, and give them a password first.',
})

/** Whether nobody could set up anything any more without this person, where people sign in. */
async function isLastLead(db: Database | Transaction, id: number): Promise<boolean> {
  const leads = await leadsWithPassword(db)
  return leads.length === 1 && leads[0]?.id === id
}

/** Those who may set up everything, and can prove who they are. */
export const leadsWithPassword = (db: Database | Transaction): Promise<{ id: number; name: string }[]> =>
  db
    .select({ id: operators.id, name: operators.name })
    .from(operators)
    .innerJoin(credentials, and(eq(credentials.operatorId, operators.id), isNotNull(credentials.password)))
    .where(and(eq(operators.role, 'lead'), isNull(operators.archivedAt)))

const findPerson: Finder = async (db, id) => {
  const [person] = await db.select().from(operators).where(eq(operators.id, id))
  if (!person) return null
  const { name, initials, role } = person
  const stored = { name, initials, role, ...readerFrom(person.reader) }
  const others = await db
    .select({ id: operators.id })
    .from(operators)
    .where(and(ne(operators.id, id), isNull(operators.archivedAt)))
  return {
    id,
    title: person.name,
    fields: PERSON_FIELDS,
    stored,
    shown: plainShown(stored),
    read: (values) => plainRead(PERSON_FIELDS, values),
    words: wordsOf(PERSON_FIELDS),
    archived: person.archivedAt !== null,
    keptFor: 'People stay in the records that they made.',
    inTheWay:
      others.length === 0
        ? { message: `${person.name} is the only one.`, hint: 'Add somebody else first.' }
        : (await isLastLead(db, id))
          ? LAST_LEAD(person.name)
          : null,
    check: async (tx, after) => {
      await uniqueName(tx, operators, after.name, id, 'person')
      if (after.role === 'lead' || !(await isLastLead(tx, id))) return
      const { message, hint } = LAST_LEAD(person.name)
      throw new Problem(409, 'last-lead', message, { detail: 'Nothing was changed.', hint, fields: { role: message } })
    },
    save: async (tx, values) => {
      await tx.update(operators).set(personRow(values, person.reader)).where(eq(operators.id, id))
    },
    archive: async (tx, archivedAt) => {
      await tx.update(operators).set({ archivedAt }).where(eq(operators.id, id))
    },
  }
}

/** When it was renewed, which no form asks for. */
const renewedWords: Words = () => ({
  title: 'Renewed',
  said: (value) => say`${{ at: Date.parse(String(value)) }}`,
})

const findConsumable: Finder = async (db, id) => {
  const [consumable] = await db.select().from(consumables).where(eq(consumables.id, id))
  if (!consumable) return null
  const { name, everyDays, leadDays } = consumable
  const form = { name, everyDays, leadDays }
  const renewed = await db
    .select()
    .from(consumableRenewals)
    .where(and(eq(consumableRenewals.consumableId, id), isNull(consumableRenewals.undoneAt)))
    .orderBy(desc(consumableRenewals.at))
  const stored = { ...form, renewed: (renewed[0]?.at ?? consumable.since).toISOString() }
  return {
    id,
    title: name,
    fields: CONSUMABLE_FIELDS,
    stored,
    shown: plainShown(form),
    read: (values) => ({ ...plainRead(CONSUMABLE_FIELDS, values), renewed: stored.renewed }),
    words: wordsOf(CONSUMABLE_FIELDS, renewedWords),
    archived: consumable.archivedAt !== null,
    keptFor: renewed.length > 0 ? `${name} was renewed before.` : null,
    inTheWay: null,
    save: async (tx, { renewed: back, ...values }) => {
      if (Object.keys(values).length > 0) await tx.update(consumables).set(values).where(eq(consumables.id, id))
      // Only undoing touches it: the renewal that counts now was none.
      const [last] = back === undefined ? [] : renewed
      if (last) {
        await tx.update(consumableRenewals).set({ undoneAt: new Date() }).where(eq(consumableRenewals.id, last.id))
      }
    },
    archive: async (tx, archivedAt) => {
      await tx.update(consumables).set({ archivedAt }).where(eq(consumables.id, id))
    },
    delete: async (tx) => {
      await tx.delete(consumables).where(eq(consumables.id, id))
    },
  }
}

/** What its bottle says: each value at its temperature, and against what it was measured. */
function printedSentence({ kind, printed, uncertainty, against }: typeof ownStandards.$inferSelect): Sentence {
  // Stated as those of the kind are that everybody knows.
  const { unit, relative } = kindOf(kind).standards[0] as Standard
  const values = printed.temperatures.map(
    (t, i) => say`${exactly(printed.values[i] as number, unit)} at ${celsius(t, 0)}`,
  )
  const said = values.reduce<Sentence>((line, one) => (line === '' ? one : say`${line}, ${one}`), '')
  const electrode = REFERENCE_ELECTRODES.find((r) => r.code === against)?.label ?? 'hydrogen'
  const width = exactly(uncertainty, relative ? '%' : unit)
  return say`${kindOf(kind).name}: ${said}${against ? `, against ${electrode}` : ''}, good to ±${width}. Records rest on it, so this stays: another value is another standard.`
}

const findStandard: Finder = async (db, id) => {
  const [standard] = await db.select().from(ownStandards).where(eq(ownStandards.id, id))
  if (!standard) return null
  const { code, label, caution } = standard
  const stored = { label, caution }
  const lots = await db
    .select({ lot: solutionLots.lot })
    .from(solutionLots)
    .where(and(eq(solutionLots.standard, code), isNull(solutionLots.discardedAt)))
  const poured = await db
    .select({ id: visits.id })
    .from(visits)
    .where(sql`${visits.settings}::text like ${`%"${code}"%`}`)
    .limit(1)
  return {
    id,
    title: label,
    fields: STANDARD_FIELDS,
    says: printedSentence(standard),
    stored,
    shown: plainShown(stored),
    read: (values) => plainRead(STANDARD_FIELDS, values),
    words: wordsOf(STANDARD_FIELDS),
    archived: standard.archivedAt !== null,
    keptFor: poured.length + lots.length > 0 ? 'Bottles or visits speak of it.' : null,
    inTheWay:
      lots.length > 0
        ? { message: `Lot ${lots[0]?.lot} of it is on the Shelf.`, hint: 'Discard its bottles first.' }
        : null,
    check: async () => {
      const { low, high } = kindOf(standard.kind).ownStandard ?? { low: 0, high: 0 }
      const { temperatures, values } = standard.printed
      const rises = temperatures.every((t, i) => i === 0 || t > (temperatures[i - 1] as number))
      const whole = temperatures.length > 0 && temperatures.length === values.length && rises
      if (!whole || values.some((v) => v < low || v > high)) {
        throw new Problem(400, 'invalid', 'Its values cannot be those of such a standard.')
      }
    },
    save: async (tx, values) => {
      await tx.update(ownStandards).set(values).where(eq(ownStandards.id, id))
    },
    archive: async (tx, archivedAt) => {
      await tx.update(ownStandards).set({ archivedAt }).where(eq(ownStandards.id, id))
    },
    delete: async (tx) => {
      await tx.delete(ownStandards).where(eq(ownStandards.id, id))
    },
  }
}

const findTemplate: Finder = async (db, id) => {
  const [template] = await db.select().from(ownTemplates).where(eq(ownTemplates.id, id))
  if (!template) return null
  const stored = { name: template.name }
  return {
    id,
    title: template.name,
    fields: TEMPLATE_FIELDS,
    stored,
    shown: plainShown(stored),
    read: (values) => plainRead(TEMPLATE_FIELDS, values),
    words: wordsOf(TEMPLATE_FIELDS),
    archived: template.archivedAt !== null,
    keptFor: null,
    inTheWay: null,
    save: async (tx, values) => {
      await tx.update(ownTemplates).set(values).where(eq(ownTemplates.id, id))
    },
    archive: async (tx, archivedAt) => {
      await tx.update(ownTemplates).set({ archivedAt }).where(eq(ownTemplates.id, id))
    },
    delete: async (tx) => {
      await tx.delete(ownTemplates).where(eq(ownTemplates.id, id))
    },
  }
}

/** What is that of one position or device alone, and no part of a template. */
const OWN_ALONE = ['code', 'spot', 'placeId', 'deviceId', 'sortOrder', 'note', 'name', 'location', 'serial', 'firmware']

/** What others like a position would be asked and set to. @throws Problem where there is none */
export async function templateOf(tx: Transaction, positionId: number) {
  const [position] = await tx.select().from(positions).where(eq(positions.id, positionId))
  const [rules, device] = position
    ? [await findPosition(tx, positionId), await findDevice(tx, position.deviceId)]
    : [null, null]
  if (!position || !rules || !device) throw notFound('position')
  const all = Object.entries({ ...device.shown, ...rules.shown })
  return {
    kind: position.kind,
    waterKind: position.waterKind,
    values: Object.fromEntries(all.filter(([key]) => !OWN_ALONE.includes(key))),
  }
}

const taken = (field: string, message: string) =>
  new Problem(409, 'taken', message, { detail: 'Nothing was changed.', fields: { [field]: message } })

/** @throws Problem where another has that name, whatever its case */
export async function uniqueName(
  tx: Transaction,
  table: typeof places | typeof operators,
  name: unknown,
  own: number | null,
  what: string,
): Promise<void> {
  const [same] = await tx
    .select({ id: table.id })
    .from(table)
    .where(
      and(
        sql`lower(${table.name}) = ${String(name).trim().toLowerCase()}`,
        own === null ? sql`true` : ne(table.id, own),
      ),
    )
  if (same) throw taken('name', `There is a ${what} of that name already.`)
}

const FINDERS: Record<Subject, Finder> = {
  site: findSite,
  place: findPlace,
  position: findPosition,
  device: findDevice,
  sensor: findSensor,
  person: findPerson,
  consumable: findConsumable,
  standard: findStandard,
  template: findTemplate,
}

/** What is to be changed, as it is now; null where there is none. */
export const findThing = (db: Database | Transaction, subject: Subject, id: number): Promise<Thing | null> =>
  FINDERS[subject](db, id)
