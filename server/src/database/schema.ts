import type { CalendarDay, MailSecurity, Protocol, Subject, TellingWay } from '@frustum/contract'
import type {
  AlarmKind,
  CapturedReading,
  Cause,
  CheckFirst,
  DaySummary,
  InstrumentKind,
  IntervalMethod,
  OwnStandard,
  Role,
  SensorKind,
  Setup,
  Water,
} from '@frustum/core'
import { sql } from 'drizzle-orm'
import {
  boolean,
  date,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  serial,
  smallint,
  text,
  timestamp,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core'
import {
  alarmLimits,
  binary,
  calibrationParameters,
  changedValue,
  connectionSettings,
  deviceAddress,
  deviceSetting,
  findingCodes,
  formTexts,
  lotTable,
  mappingColumn,
  printedValues,
  proposedCauses,
  readerChoices,
  relativeCalibration,
  tellingWishes,
  textList,
  visitEntry,
  visitSettings,
  workingPractices,
} from './columns.ts'
import { storedAssessment, storedRecord, visitSnapshot } from './recordColumns.ts'

const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' })

export const sites = pgTable('sites', {
  id: serial().primaryKey(),
  name: text().notNull(),
  timeZone: text('time_zone').notNull(),
  /** Who knows it may subscribe to the calendar. */
  calendarToken: text('calendar_token').notNull().default(sql`md5(random()::text || clock_timestamp()::text)`),
  /** Told apart from another site of the same name, as where both keep backups in one folder. */
  uid: uuid().notNull().defaultRandom(),
  /** Whether people sign in; where others reach the server, they do anyway. */
  signIn: boolean('sign_in').notNull().default(false),
  /** How long readings, and what their hours come to, are kept; null: for ever. Days are always. */
  keepReadingsDays: integer('keep_readings_days').default(400),
  keepHoursDays: integer('keep_hours_days'),
})

export const operators = pgTable('operators', {
  id: serial().primaryKey(),
  siteId: integer('site_id')
    .notNull()
    .references(() => sites.id),
  name: text().notNull().unique(),
  initials: text().notNull().default(''),
  role: text().$type<Role>().notNull().default('operator'),
  /** How this person reads numbers and dates, as far as it was chosen. */
  reader: readerChoices().notNull().default({}),
  archivedAt: instant('archived_at'),
})

/** What people prove themselves with, as salted hashes; in no file but a backup. */
export const credentials = pgTable('credentials', {
  operatorId: integer('operator_id')
    .primaryKey()
    .references(() => operators.id),
  password: text(),
  pin: text(),
})

/** Browsers that are signed in. */
export const sessions = pgTable('sessions', {
  /** SHA-256 of what the browser's cookie holds. */
  token: text().primaryKey(),
  operatorId: integer('operator_id')
    .notNull()
    .references(() => operators.id),
  by: text().$type<'password' | 'pin'>().notNull(),
  startedAt: instant('started_at').notNull(),
  lastUsedAt: instant('last_used_at').notNull(),
})

/** How and where backups are made; the newest line holds. */
export const backupSettings = pgTable('backup_settings', {
  id: serial().primaryKey(),
  /** Empty: beside the database, which is no help when the disk fails. */
  folder: text().notNull().default(''),
  nightly: boolean().notNull().default(true),
  /** Of the site's clock. */
  hour: integer().notNull().default(2),
  keepDays: integer('keep_days').notNull().default(7),
  keepWeeks: integer('keep_weeks').notNull().default(4),
  keepMonths: integer('keep_months').notNull().default(12),
  /** What backups are locked with, so that they can be made at night; empty: they are open. */
  passphrase: text().notNull().default(''),
})

/** Backups that were made, or could not be. */
export const backups = pgTable('backups', {
  id: serial().primaryKey(),
  at: instant('at').notNull(),
  /** Null for automatic nightly backups. */
  operator: text(),
  file: text().notNull(),
  /** The settings in force, which have its passphrase; null where none were set. */
  settingsId: integer('settings_id').references(() => backupSettings.id),
  /** Why there is none; null of one that was read back and is good. */
  problem: text(),
})

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

/** What was kept of a position and its device, for others like it: as it stood in their forms. */
export const ownTemplates = pgTable('own_templates', {
  id: serial().primaryKey(),
  name: text().notNull(),
  kind: text().$type<SensorKind>().notNull(),
  waterKind: text('water_kind').$type<Water>(),
  values: formTexts('values').notNull(),
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

/** A bus or a host with devices on it. */
export const connections = pgTable('connections', {
  id: serial().primaryKey(),
  name: text().notNull(),
  protocol: text().$type<Protocol>().notNull(),
  settings: connectionSettings().notNull().default({}),
  archivedAt: instant('archived_at'),
})

/** What a broker or a page is signed in to with; in no file but a backup, and never answered. */
export const connectionSecrets = pgTable('connection_secrets', {
  connectionId: integer('connection_id')
    .primaryKey()
    .references(() => connections.id),
  secret: text().notNull(),
})

/** Mappings that somebody kept to begin others with. */
export const mappingProfiles = pgTable('mapping_profiles', {
  id: serial().primaryKey(),
  name: text().notNull(),
  mapping: mappingColumn().notNull(),
  madeAt: instant('made_at').notNull(),
  madeBy: text('made_by').notNull(),
  archivedAt: instant('archived_at'),
})

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

/** Readings between visits as they come, until they are packed by the hour. */
export const readings = pgTable(
  'readings',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    at: instant('at').notNull(),
    /** As the device displayed it; missing where it gives the signal alone. */
    shown: doublePrecision(),
    signal: doublePrecision(),
    temperature: doublePrecision(),
    /** Its place among the states of a reading. */
    state: smallint().notNull().default(0),
  },
  (t) => [index('readings_by_time').on(t.installationId, t.at)],
)

/** The same, an hour of a sensor in a row: a fifth of the room, and a year is read at once. */
export const readingHours = pgTable(
  'reading_hours',
  {
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    /** Hours since 1970. */
    hour: integer().notNull(),
    /** ms within the hour, rising; the others stand in the same places. */
    at: integer().array().notNull(),
    shown: real().array().$type<(number | null)[]>().notNull(),
    signal: real().array().$type<(number | null)[]>().notNull(),
    temperature: real().array().$type<(number | null)[]>().notNull(),
    state: smallint().array().notNull(),
  },
  (t) => [primaryKey({ columns: [t.installationId, t.hour] })],
)

/** What was wrong with what a position read. Nothing of it changes: what became of it stands in its entries. */
export const alarms = pgTable(
  'alarms',
  {
    id: serial().primaryKey(),
    /** Null of what is wrong with the site itself. */
    positionId: integer('position_id').references(() => positions.id),
    kind: text().$type<AlarmKind>().notNull(),
    /** What else it is of: the other of two, a standard, a person. */
    subject: text(),
    raisedAt: instant('raised_at').notNull(),
    value: doublePrecision(),
    limit: doublePrecision('limit_value'),
    /** That of its entry of the end, which it repeats: active alarms are looked for every second among all there were. */
    returnedAt: instant('gone_at'),
  },
  (t) => [index('alarms_by_position').on(t.positionId, t.raisedAt), index('alarms_by_end').on(t.returnedAt)],
)

/**
 * Derived: summaries of a sensor's last days, from which typical readings are learned. Emptied when readings of those
 * days arrive later.
 */
export const learnedDays = pgTable('learned_days', {
  installationId: integer('installation_id')
    .primaryKey()
    .references(() => installations.id, { onDelete: 'cascade' }),
  /** Device, setting and source of the readings. Days with other ones are not used. */
  readAs: text('read_as').notNull(),
  /** When `readAs` last changed; null if it never did. */
  since: instant('since'),
  /** UTC midnight up to which days are summarized. */
  through: instant('through').notNull(),
  days: jsonb().$type<{ day: number; summary: DaySummary }[]>().notNull(),
  /** Incremented when emptied, so that a summary that was under way is not stored. */
  revision: integer().notNull().default(0),
})

export const alarmEntries = pgTable(
  'alarm_entries',
  {
    id: serial().primaryKey(),
    alarmId: integer('alarm_id')
      .notNull()
      .references(() => alarms.id),
    at: instant('at').notNull(),
    what: text().$type<'acknowledged' | 'shelved' | 'unshelved' | 'returned'>().notNull(),
    /** Null of what came by itself. */
    operator: text(),
    until: instant('until'),
    reason: text(),
  },
  (t) => [index('alarm_entries_by_alarm').on(t.alarmId)],
)

/** The mail server that messages go through; the newest line holds. */
export const mailServers = pgTable('mail_servers', {
  id: serial().primaryKey(),
  host: text().notNull(),
  port: integer().notNull(),
  security: text().$type<MailSecurity>().notNull(),
  user: text().notNull(),
  /** The address that messages come from. */
  sender: text().notNull(),
  setAt: instant('set_at').notNull(),
  setBy: text('set_by').notNull(),
})

/** Who is told of alarms and of what is due, and how. */
export const recipients = pgTable('recipients', {
  id: serial().primaryKey(),
  name: text().notNull(),
  by: text().$type<TellingWay>().notNull(),
  /** A mail address, a URL, or a topic. */
  address: text().notNull(),
  /** The broker of a topic. */
  connectionId: integer('connection_id').references(() => connections.id),
  wishes: tellingWishes().notNull(),
  /** Of what began before, nobody is told. */
  since: instant('since').notNull(),
  archivedAt: instant('archived_at'),
})

/** Passwords and keys that messages are sent with; in no file but a backup, and never answered. */
export const tellingSecrets = pgTable('telling_secrets', {
  /** "mail", or the number of a recipient. */
  of: text().primaryKey(),
  secret: text().notNull(),
})

/** What was, or is to be, told: kept until it is there. */
export const messages = pgTable(
  'messages',
  {
    id: serial().primaryKey(),
    recipientId: integer('recipient_id')
      .notNull()
      .references(() => recipients.id),
    /** What it is of, so that nothing is told twice. */
    key: text().notNull(),
    subject: text().notNull(),
    body: text().notNull(),
    /** For programs. */
    data: jsonb().notNull(),
    madeAt: instant('made_at').notNull(),
    nextTryAt: instant('next_try_at'),
    tries: integer().notNull().default(0),
    sentAt: instant('sent_at'),
    problem: text(),
  },
  (t) => [uniqueIndex('messages_by_key').on(t.recipientId, t.key), index('messages_waiting').on(t.nextTryAt)],
)

/** Who was told of which alarm: how often, when last, and when of its end. */
export const toldAlarms = pgTable(
  'told_alarms',
  {
    recipientId: integer('recipient_id')
      .notNull()
      .references(() => recipients.id),
    alarmId: integer('alarm_id')
      .notNull()
      .references(() => alarms.id),
    lastAt: instant('last_at').notNull(),
    goneToldAt: instant('gone_told_at'),
  },
  (t) => [primaryKey({ columns: [t.recipientId, t.alarmId] })],
)

/** When the server was last at work: what lies between then and its next start nobody watched. */
export const workMarks = pgTable('work_marks', {
  id: integer().primaryKey().default(1),
  at: instant('at').notNull(),
})

/** What the readings of an hour, or of a day, come to: kept for ever. */
export const rollUps = pgTable(
  'roll_ups',
  {
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    /** Hours that it is over: 1 or 24. */
    hours: smallint().notNull(),
    /** Hours since 1970 at which it begins; days are those of UTC. */
    start: integer().notNull(),
    count: integer().notNull(),
    good: integer().notNull(),
    min: real(),
    max: real(),
    mean: doublePrecision(),
    squares: doublePrecision().notNull(),
    /** Mean temperature. */
    temperature: real(),
  },
  (t) => [primaryKey({ columns: [t.installationId, t.hours, t.start] })],
)

export const solutionLots = pgTable('solution_lots', {
  id: serial().primaryKey(),
  standard: text().notNull(),
  lot: text().notNull(),
  expiresOn: date('expires_on').$type<CalendarDay>().notNull(),
  openedOn: instant('opened_on'),
  lifeAfterOpeningDays: integer('life_after_opening_days').notNull(),
  ownTable: lotTable('own_table'),
  /** mL in the bottle when it was new. */
  volume: doublePrecision().notNull().default(500),
  storage: text().notNull().default(''),
  discardedAt: instant('discarded_at'),
})

/** Standards of the site's own, as their bottles say; what they are never changes. */
export const ownStandards = pgTable('own_standards', {
  id: serial().primaryKey(),
  /** The same in every site that it comes to: records name it. */
  code: text().notNull().unique(),
  kind: text().$type<SensorKind>().notNull(),
  label: text().notNull(),
  printed: printedValues().notNull(),
  uncertainty: doublePrecision().notNull(),
  against: text().$type<OwnStandard['against']>(),
  ion: text().$type<OwnStandard['ion']>(),
  caution: text().notNull().default(''),
  archivedAt: instant('archived_at'),
})

/** What was poured from a lot; never changed. A wrong figure is put right by another line, negative if need be. */
export const solutionUses = pgTable('solution_uses', {
  id: serial().primaryKey(),
  lotId: integer('lot_id')
    .notNull()
    .references(() => solutionLots.id),
  visitId: uuid('visit_id'),
  at: instant('at').notNull(),
  milliliters: doublePrecision().notNull(),
  operator: text().notNull(),
  reason: text().notNull(),
})

/** Hand meters, thermometers, kits, simulators. Never changed: the newest line of a name and number holds. */
export const instruments = pgTable('instruments', {
  id: serial().primaryKey(),
  kind: text().$type<InstrumentKind>().notNull(),
  name: text().notNull(),
  serial: text().notNull(),
  calibratedOn: date('calibrated_at').$type<CalendarDay>(),
  uncertainty: doublePrecision(),
  unit: text().notNull(),
  addedAt: instant('added_at').notNull(),
  addedBy: text('added_by').notNull(),
})

/** Outputs that were held over a line, and when they were let go. */
export const holds = pgTable('holds', {
  id: serial().primaryKey(),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  visitId: uuid('visit_id'),
  heldAt: instant('held_at').notNull(),
  heldBy: text('held_by').notNull(),
  releasedAt: instant('released_at'),
  releasedBy: text('released_by'),
  /** At the device itself, and not over its line. */
  byHand: boolean('by_hand').notNull().default(false),
  /** Why they could not be held, or let go, at the last try. */
  problem: text(),
})

/**
 * Calibrations that were to be written to a device over its connection: on disk before the device is asked, so that a
 * device whose calibration changed is never without a record of it.
 */
export const calibrationWrites = pgTable('calibration_writes', {
  id: serial().primaryKey(),
  visitId: uuid('visit_id')
    .notNull()
    .references(() => visits.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  actionId: uuid('action_id'),
  fingerprint: text(),
  wanted: calibrationParameters().notNull(),
  /** Null until it is known what the device holds. */
  settledAt: instant('settled_at'),
  /** Null where the device holds what was wanted. */
  problem: text(),
})

/** A way round several sensors: shared float and rinse, one caution each. */
export const trips = pgTable('trips', {
  id: uuid().primaryKey(),
  name: text().notNull(),
  operator: text().notNull(),
  positions: textList().notNull(),
  startedAt: instant('started_at').notNull(),
  closedAt: instant('closed_at'),
})

/** The site's ways of working; the newest line holds. */
export const schoolChoices = pgTable('school_choices', {
  id: serial().primaryKey(),
  at: instant('at').notNull(),
  operator: text().notNull(),
  practices: workingPractices('schools').notNull(),
})

/** What is to be read instead in a closed visit, and why. The record itself stays. */
export const corrections = pgTable('corrections', {
  id: serial().primaryKey(),
  visitId: uuid('visit_id').notNull(),
  at: instant('at').notNull(),
  operator: text().notNull(),
  text: text().notNull(),
})

/** Files that were taken in, with what became of each row. */
export const imports = pgTable('imports', {
  id: serial().primaryKey(),
  at: instant('at').notNull(),
  operator: text().notNull(),
  what: text().$type<'sensors' | 'past' | 'records' | 'set-up' | 'log'>().notNull(),
  fileName: text('file_name').notNull(),
  sha256: text().notNull(),
  report: jsonb().notNull(),
  /** When all of it was in; what is not finished by then is taken back at the next start. */
  doneAt: instant('done_at'),
})

/** The heading of a visit and who has it in hand; what happened in it is in visit_entries. */
export const visits = pgTable(
  'visits',
  {
    id: uuid().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    procedure: text().notNull(),
    settings: visitSettings().notNull(),
    tripId: uuid('trip_id').references(() => trips.id),
    /** The file that it was taken in from; null of visits that were made here. */
    importId: integer('import_id').references(() => imports.id),
    operator: text().notNull(),
    startedAt: instant('started_at').notNull(),
    closedAt: instant('closed_at'),
    outcome: text().$type<'done' | 'abandoned'>(),
    /** Codes of what its result found, as judged when it was closed; null in records from before they were kept. */
    findings: findingCodes(),
    /**
     * Derived: its readings with their signals worked out again, where the device's calibration was unknown at the visit
     * and became known since. Null otherwise.
     */
    knownReadings: jsonb('known_readings').$type<{ step: string; reading: CapturedReading }[]>(),
    /** All that it is judged with, as it was when it began; null only until the start after an update. */
    snapshot: visitSnapshot(),
    /** What it says since it is closed. */
    record: storedRecord(),
    holderClient: text('holder_client'),
    holderName: text('holder_name'),
    heldSince: instant('held_since'),
  },
  (t) => [
    index('visits_by_installation').on(t.installationId, t.startedAt),
    index('visits_by_end').on(t.closedAt),
    uniqueIndex('one_open_visit').on(t.installationId).where(sql`${t.closedAt} is null`),
  ],
)

/** What was asked for and done, by the id that whoever asked gave it: asked again, it is answered and not done again. */
export const actions = pgTable('actions', {
  id: uuid().primaryKey(),
  /** Identifies person, address and content; null on rows from before it was kept. */
  fingerprint: text(),
  at: instant('at').notNull(),
  /** Null when the server was cut off after it was done and before it was answered. */
  answer: jsonb(),
})

/** What happened in a visit, in order, never changed: steps done or skipped, captured points, decisions. */
export const visitEntries = pgTable(
  'visit_entries',
  {
    id: serial().primaryKey(),
    visitId: uuid('visit_id')
      .notNull()
      .references(() => visits.id),
    seq: integer().notNull(),
    at: instant('at').notNull(),
    operator: text().notNull(),
    entry: visitEntry().notNull(),
    /** The same for every try of one action. */
    actionId: uuid('action_id'),
    /** Identifies the request of that action; null on lines from before it was kept, and on those without an action. */
    fingerprint: text(),
    /** What was said when it was decided so; null on lines that decide nothing. */
    assessment: storedAssessment(),
  },
  (t) => [
    uniqueIndex('visit_entries_in_order').on(t.visitId, t.seq),
    uniqueIndex('visit_entries_once').on(t.visitId, t.actionId),
  ],
)

/** What a sensor was found to be; `adopted` when the device has computed with it since. */
export const calibrations = pgTable(
  'calibrations',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    visitId: uuid('visit_id').references(() => visits.id),
    at: instant('at').notNull(),
    characteristic: calibrationParameters().notNull(),
    /** Half-widths of the 95 % intervals. */
    uncertainty: calibrationParameters().notNull(),
    /** Where the characteristic is not whole, since the device's calibration was unknown: what tells its errors. */
    relative: relativeCalibration(),
    adopted: boolean().notNull(),
    /** The first of a new sensor. */
    baseline: boolean().notNull().default(false),
  },
  (t) => [index('calibrations_by_installation').on(t.installationId, t.at)],
)

/** Numbers that a device was found to compute with, although it had been given others, or that were given back to it. */
export const deviceCalibrations = pgTable(
  'device_numbers',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    at: instant('at').notNull(),
    held: calibrationParameters().notNull(),
    given: calibrationParameters().notNull(),
    /** Who gave them back; null when they were found changed. */
    operator: text(),
  },
  (t) => [index('device_numbers_by_installation').on(t.installationId, t.at)],
)

/** The hour meter of what runs at a position, as it was read. */
export const hoursRun = pgTable('hours_run', {
  id: serial().primaryKey(),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  hours: doublePrecision().notNull(),
})

/** Error as found and as left at the process value: what drift is computed from. One a finished visit. */
export const driftObservations = pgTable(
  'drift_observations',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    visitId: uuid('visit_id').references(() => visits.id),
    at: instant('at').notNull(),
    asFound: doublePrecision('as_found'),
    /** Computed from the numbers that were given where nothing was read after them. */
    asLeft: doublePrecision('as_left').notNull(),
    verified: boolean().notNull().default(true),
    uncertainty: doublePrecision().notNull(),
    fouling: doublePrecision(),
    adjusted: boolean().notNull(),
  },
  (t) => [index('drift_by_installation').on(t.installationId, t.at)],
)

/** Typed readings that were none, and why: they stay where they were, and nothing counts them any longer. */
export const takenBack = pgTable(
  'taken_back',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    /** When it was said to have been read. */
    readAt: instant('read_at').notNull(),
    at: instant('at').notNull(),
    operator: text().notNull(),
    reason: text().notNull(),
  },
  (t) => [uniqueIndex('taken_back_once').on(t.installationId, t.readAt)],
)

/** What was read beside a display, without a visit. Never changed: with its reading taken back it counts no longer. */
export const referenceValues = pgTable(
  'reference_values',
  {
    id: serial().primaryKey(),
    installationId: integer('installation_id')
      .notNull()
      .references(() => installations.id),
    at: instant('at').notNull(),
    /** As displayed, and as it should have been, in the unit that was shown. */
    shown: doublePrecision().notNull(),
    reference: doublePrecision().notNull(),
    /** Half-width of the 95 % interval of the reference, in the same unit. */
    uncertainty: doublePrecision().notNull(),
    unit: text().notNull(),
    /** With what it was read. */
    readWith: text('read_with').notNull(),
    /** Displayed minus reference, and its half-width, in the unit of errors. */
    error: doublePrecision().notNull(),
    errorUncertainty: doublePrecision('error_uncertainty').notNull(),
    operator: text().notNull(),
  },
  (t) => [index('reference_values_by_installation').on(t.installationId, t.at)],
)

export const events = pgTable('events', {
  id: serial().primaryKey(),
  installationId: integer('installation_id')
    .notNull()
    .references(() => installations.id),
  at: instant('at').notNull(),
  kind: text().notNull(),
  note: text().notNull(),
  /** Who entered it; null of what the product noted by itself. */
  operator: text(),
  byHand: boolean('by_hand').notNull().default(false),
  photo: text().references(() => photos.sha256),
})

/** Pictures of what happened, by the SHA-256 of what they hold. */
export const photos = pgTable('photos', {
  sha256: text().primaryKey(),
  type: text().$type<'image/jpeg' | 'image/png' | 'image/webp'>().notNull(),
  bytes: binary().notNull(),
  addedAt: instant('added_at').notNull(),
})

/** A visit taken out of the forecast by hand, or taken back into it; the newest line of a visit holds. */
export const exclusions = pgTable('exclusions', {
  id: serial().primaryKey(),
  visitId: uuid('visit_id')
    .notNull()
    .references(() => visits.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  excluded: boolean().notNull(),
  reason: text().notNull(),
})

/** What a diagnostic test showed; the newest answer of a feature holds. */
export const testAnswers = pgTable('test_answers', {
  id: serial().primaryKey(),
  installationId: integer('installation_id')
    .notNull()
    .references(() => installations.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  feature: text().notNull(),
  answer: text().notNull(),
})

/** What it turned out to be, beside what was proposed at that moment. */
export const confirmedCauses = pgTable('confirmed_causes', {
  id: serial().primaryKey(),
  installationId: integer('installation_id')
    .notNull()
    .references(() => installations.id),
  at: instant('at').notNull(),
  operator: text().notNull(),
  cause: text().$type<Cause>().notNull(),
  proposed: proposedCauses().notNull(),
})

/** A visit moved by hand to another day; the newest line of a position holds until it is visited. */
export const movedVisits = pgTable('moved_visits', {
  id: serial().primaryKey(),
  positionId: integer('position_id')
    .notNull()
    .references(() => positions.id),
  movedAt: instant('moved_at').notNull(),
  operator: text().notNull(),
  /** Null: back to what is proposed. */
  to: instant('to'),
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

/** What was changed of what may be edited: never rewritten; what is undone is one more line. */
export const changes = pgTable(
  'changes',
  {
    id: serial().primaryKey(),
    at: instant('at').notNull(),
    operator: text().notNull(),
    /** What was changed, and which of them; the site itself has no number. */
    subject: text().$type<Subject>().notNull(),
    subjectId: integer('subject_id'),
    field: text().notNull(),
    before: changedValue('before'),
    after: changedValue('after'),
    validFrom: instant('valid_from').notNull(),
    /** Whether a sensor there takes another course since: it did change, and was not entered wrong. */
    turns: boolean().notNull().default(false),
    why: text(),
    /** The change that this one takes back. */
    undoes: integer('undoes'),
  },
  (t) => [index('changes_by_subject').on(t.subject, t.subjectId, t.id)],
)
