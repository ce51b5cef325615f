import type { CalendarDay } from '@frustum/contract'
import type { CheckFirst, IntervalMethod, SensorKind, Setup, Water } from '@frustum/core'
import { boolean, date, doublePrecision, index, integer, pgTable, serial, text } from 'drizzle-orm/pg-core'
import { alarmLimits, binary, deviceAddress, deviceSetting, instant, mappingColumn, textList } from '../columns.ts'
import { connections } from './connections.ts'
import { sites } from './site.ts'

/** Places, positions, devices and sensors. */

export const places = pgTable('places', {
  id: serial().primaryKey(),
  siteId: integer('site_id')
    .notNull()
    .references(() => sites.id),
  name: text().notNull(),
  water: text().notNull(),
  note: text().notNull().default(''),
  /** Its place in lists; those of the same number by their names. */
  sortOrder: integer('sort_order').notNull().default(0),
  archivedAt: instant('archived_at'),
})

/** Where something is measured: it stays when the sensor there is replaced. */
export const positions = pgTable('positions', {
  id: serial().primaryKey(),
  placeId: integer('place_id')
    .notNull()
    .references(() => places.id),
  code: text().notNull().unique(),
  spot: text().notNull(),
  kind: text().$type<SensorKind>().notNull(),
  /** What reads the sensor here. */
  deviceId: integer('device_id')
    .notNull()
    .references(() => devices.id),
  /** In the core unit of the kind. */
  processValue: doublePrecision('process_value').notNull(),
  processTemperature: doublePrecision('process_temperature').notNull(),
  tolerance: doublePrecision().notNull(),
  reliability: doublePrecision().notNull().default(0.95),
  /** The calendar until the sensor's own drift is known; null: none. */
  startingDays: integer('starting_days'),
  floorDays: integer('floor_days').notNull(),
  ceilingDays: integer('ceiling_days').notNull(),
  /** How the next date is found, and what the methods other than drift need. */
  method: text().$type<IntervalMethod>().notNull().default('drift'),
  fixedDays: integer('fixed_days'),
  inUseHours: doublePrecision('in_use_hours'),
  hoursPerDay: doublePrecision('hours_per_day'),
  /** Whether a visit begins with a check and adjusts only what needs it: a sound sensor, always, or never. */
  checkFirst: text('check_first').$type<CheckFirst>().notNull().default('when-sound'),
  /** What a wrong reading does here: 1 a nuisance, 2 a loss, 3 harm to livestock, people or the permit. */
  consequence: integer().notNull().default(2),
  /** Days until an ordered spare is here. */
  spareLeadDays: integer('spare_lead_days').notNull().default(21),
  /** A reading is kept at least so often, s: of one that stands still, too. */
  keepSeconds: integer('keep_seconds').notNull().default(60),
  cautions: textList().notNull(),
  /** The permit's or the authority's rule, and the longest interval it allows: they outrank what is proposed. */
  authorityRule: text('authority_rule'),
  authorityDays: integer('authority_days'),
  /** Sensors of one body share a reference; those of one water should agree. */
  body: text(),
  water: text(),
  /** What kind of water it is. */
  waterKind: text('water_kind').$type<Water>(),
  /** What of its device is its reading; missing where it is read by eye. */
  mapping: mappingColumn(),
  /** Between which values the water should be, in the unit that is shown. */
  limits: alarmLimits(),
  note: text().notNull().default(''),
  sortOrder: integer('sort_order').notNull().default(0),
  archivedAt: instant('archived_at'),
})

/** Codes that a position had before: what was printed or kept of them still leads there. */
export const positionCodes = pgTable(
  'position_codes',
  {
    id: serial().primaryKey(),
    positionId: integer('position_id')
      .notNull()
      .references(() => positions.id),
    code: text().notNull(),
    until: instant('until').notNull(),
  },
  (t) => [index('position_codes_by_code').on(t.code)],
)

/** By what a device that sends by itself is known: one each, made anew when it is lost. */
export const ingestTokens = pgTable('ingest_tokens', {
  deviceId: integer('device_id')
    .primaryKey()
    .references(() => devices.id),
  /** SHA-256 of it. */
  token: text().notNull().unique(),
  madeAt: instant('made_at').notNull(),
  madeBy: text('made_by').notNull(),
  usedAt: instant('used_at'),
})

export const devices = pgTable('devices', {
  id: serial().primaryKey(),
  name: text().notNull(),
  shows: text().$type<'signal' | 'value'>().notNull(),
  /** How it is calibrated: by numbers that it is given, by a key of its own, or not at all; and what that key is called. */
  adjustsBy: text('adjusts_by').$type<Setup['adjustsBy']>().notNull().default('numbers'),
  calibrationKey: text('calibration_key').notNull().default('CAL'),
  whileCalibrating: text('while_calibrating').$type<'value' | 'word'>().notNull().default('value'),
  /** Compensation, display, reference electrode: how it turns signals into what it shows. */
  setting: deviceSetting().notNull().default({}),
  /** Missing where it is read by eye. */
  connectionId: integer('connection_id').references(() => connections.id),
  address: deviceAddress().notNull().default({}),
  /** Where it hangs, and what its label says. */
  location: text().notNull().default(''),
  serial: text().notNull().default(''),
  firmware: text().notNull().default(''),
  photo: text().references(() => photos.sha256),
  note: text().notNull().default(''),
  archivedAt: instant('archived_at'),
})

export const sensors = pgTable('sensors', {
  id: serial().primaryKey(),
  serialNumber: text('serial_number').notNull(),
  kind: text().notNull(),
  model: text().notNull(),
  isothermalPh: doublePrecision('isothermal_ph').notNull().default(7),
  /** Of a spare: when it was bought, how long it keeps, and where it lies. */
  boughtOn: date('bought_on').$type<CalendarDay>(),
  keepsDays: integer('keeps_days'),
  storage: text().notNull().default(''),
  note: text().notNull().default(''),
  /** Carried from position to position to check the others. */
  travels: boolean().notNull().default(false),
  archivedAt: instant('archived_at'),
})

/** A sensor at a position, on a device, from one instant to another: what every record refers to. */
export const installations = pgTable('installations', {
  id: serial().primaryKey(),
  sensorId: integer('sensor_id')
    .notNull()
    .references(() => sensors.id),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  deviceId: integer('device_id')
    .notNull()
    .references(() => devices.id),
  installedAt: instant('installed_at').notNull(),
  removedAt: instant('removed_at'),
})

/** Pictures of what happened, by the SHA-256 of what they hold. */
export const photos = pgTable('photos', {
  sha256: text().primaryKey(),
  type: text().$type<'image/jpeg' | 'image/png' | 'image/webp'>().notNull(),
  bytes: binary().notNull(),
  addedAt: instant('added_at').notNull(),
})

/** What has a date of its own: lamps, filters, packs, sanitising. */
export const consumables = pgTable('consumables', {
  id: serial().primaryKey(),
  placeId: integer('place_id')
    .notNull()
    .references(() => places.id),
  name: text().notNull(),
  everyDays: integer('every_days').notNull(),
  /** Days until an ordered one is here. */
  leadDays: integer('lead_days').notNull().default(0),
  since: instant('since').notNull(),
  archivedAt: instant('archived_at'),
})

export const consumableRenewals = pgTable('consumable_renewals', {
  id: serial().primaryKey(),
  consumableId: integer('consumable_id')
    .notNull()
    .references(() => consumables.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  /** Set when it was pressed by mistake and taken back. */
  undoneAt: instant('undone_at'),
})
