import type { Role, VisitSnapshot, WorkingPractices } from '@frustum/core'
import type { AnyObjectSchema, InferType } from 'yup'
import type * as alarms from './alarms.ts'
import type * as backup from './backup.ts'
import type { BringLogView, BringPastView, BringProgress, BringView, TakenFile } from './bring.ts'
import type * as lines from './connections.ts'
import type * as people from './people.ts'
import type { ProtocolForm } from './protocols.ts'
import type * as bodies from './requests.ts'
import type * as telling from './telling.ts'
import type { AlarmHistoryView, AlarmView, LearningView } from './views/alarms.ts'
import type { BackupView, RestoringView } from './views/backup.ts'
import type { StartingView, VisitLive, VisitView } from './views/bench.ts'
import type {
  ConnectionPageView,
  ConnectionView,
  FinderView,
  HoldView,
  IngestView,
  LineView,
  SearchView,
  TriedView,
} from './views/connections.ts'
import type { InstrumentView } from './views/instruments.ts'
import type { ImportReport, LedgerRow, RecordView } from './views/ledger.ts'
import type { MeView, SiteChangeView } from './views/people.ts'
import type { PlanView } from './views/plan.ts'
import type { FleetView, PastView, ProbeView, WhatIfView } from './views/probes.ts'
import type { ReportView } from './views/report.ts'
import type { MovesView, RigView, ThingView } from './views/rig.ts'
import type { RoundsView, TripSummary, WaitView } from './views/rounds.ts'
import type { LastDaysView, SeriesView } from './views/series.ts'
import type { ShelfView } from './views/shelf.ts'
import type { LiveValue, SiteView } from './views/site.ts'
import type { TellingView, ToldView } from './views/telling.ts'
import type { WalkOutcome, WalkPlaceView, WalkView } from './views/walk.ts'
import type * as walk from './walk.ts'

/** A schema, or how to make it where its bounds are known only at run time. */
type BodySchema = AnyObjectSchema | ((...args: never[]) => AnyObjectSchema)

type Method = 'GET' | 'POST'

/** Who may ask once people sign in: whoever reaches the server, or somebody of this role or one above it. */
export type Needs = Role | 'anyone'

/** One address of the API: how it is asked, with which body, and what it answers. Types only: a page loads no schemas for it. */
export interface Endpoint<
  Path extends string = string,
  Schema = unknown,
  Answer = unknown,
  How extends Method = Method,
> {
  method: How
  /** With `:name` for each parameter. */
  path: Path
  /** HTTP status of success. */
  status: 200 | 201
  needs: Needs
  /** Names of the parameters that it reads behind a question mark. */
  query: readonly string[]
  /** Never set: carries the types. */
  readonly types?: { schema: Schema; answer: Answer }
}

export type SchemaOf<E> = E extends Endpoint<string, infer Schema, unknown> ? Schema : never
export type AnswerOf<E> = E extends Endpoint<string, unknown, infer Answer> ? Answer : never
export type BodyOf<E> =
  SchemaOf<E> extends (...args: never[]) => infer Schema
    ? Schema extends AnyObjectSchema
      ? InferType<Schema>
      : never
    : SchemaOf<E> extends AnyObjectSchema
      ? InferType<SchemaOf<E>>
      : undefined

type ParameterNames<Path extends string> = Path extends `${string}:${infer Rest}`
  ? Rest extends `${infer Name}/${infer Tail}`
    ? Name | ParameterNames<`/${Tail}`>
    : Rest extends `${infer Name}.${string}`
      ? Name
      : Rest
  : never
export type ParamsOf<E> =
  E extends Endpoint<infer Path, unknown, unknown> ? Record<ParameterNames<Path>, string> : never

const get =
  <Answer>(needs: Needs = 'viewer') =>
  <Path extends string>(path: Path, query: readonly string[] = []): Endpoint<Path, null, Answer, 'GET'> => ({
    method: 'GET',
    path,
    status: 200,
    needs,
    query,
  })

const post =
  <Schema extends BodySchema | null, Answer>(status: 200 | 201 = 200, needs: Needs = 'operator') =>
  <Path extends string>(path: Path, query: readonly string[] = []): Endpoint<Path, Schema, Answer, 'POST'> => ({
    method: 'POST',
    path,
    status,
    needs,
    query,
  })

/** A file to be saved, or a calendar to be subscribed to. */
const file = get<string>

/** Names what is asked to be done: sent again under the same id, it is answered again and not done again. */
export const ACTION_HEADER = 'Action-Id'

/** Carries the passphrase of a backup that is sent as a file, encoded as in an address. */
export const PASSPHRASE_HEADER = 'Backup-Passphrase'

/** Every address of the API, once. */
export const ENDPOINTS = {
  me: get<MeView>('anyone')('/api/me'),
  signIn: post<typeof people.signInBody, MeView>(200, 'anyone')('/api/me/sign-in'),
  signOut: post<typeof people.signOutBody, MeView>(200, 'anyone')('/api/me/sign-out'),
  /** Another person at the same tablet, by PIN. */
  switchPerson: post<typeof people.switchBody, MeView>(200, 'viewer')('/api/me/switch'),
  setPassword: post<typeof people.passwordBody, MeView>(200, 'viewer')('/api/me/password'),
  setPin: post<typeof people.pinBody, MeView>(200, 'viewer')('/api/me/pin'),
  /** How one's own screens write numbers and dates. */
  setReader: post<typeof people.readerBody, MeView>(200, 'viewer')('/api/me/reader'),
  /** Whether everybody signs in. */
  askSignIn: post<typeof people.askSignInBody, MeView>(200, 'lead')('/api/people/sign-in'),
  /** A first or new password of somebody else, who chooses another after it. */
  givePassword: post<typeof people.givePasswordBody, MeView>(200, 'lead')('/api/people/:id/password'),
  /** Who did what to the site, of everything that can be changed. */
  siteChanges: get<SiteChangeView[]>('lead')('/api/changes', ['before']),

  site: get<SiteView>()('/api/site'),
  setSchools: post<typeof bodies.schoolsBody, WorkingPractices>(200, 'lead')('/api/site/schools'),
  setKeeping: post<typeof bodies.keepingBody, SiteView>(200, 'lead')('/api/site/keeping'),
  undoSiteChange: post<typeof bodies.operatorBody, WorkingPractices>(200, 'lead')('/api/site/changes/:id/undo'),
  setUp: post<typeof bodies.setUpBody, SiteView>(201, 'lead')('/api/site/set-up'),

  backup: get<BackupView>('lead')('/api/backup'),
  makeBackup: post<typeof bodies.operatorBody, BackupView>(200, 'lead')('/api/backup/make'),
  setBackup: post<typeof backup.backupSettingsBody, BackupView>(200, 'lead')('/api/backup/settings'),
  backupFile: file('lead')('/api/backup/files/:file'),
  /** All but secrets, as JSON, for other programs to read. */
  everything: file('lead')('/api/backup/everything.json'),
  restoreBackup: post<typeof backup.restoreBody, RestoringView>(200, 'lead')('/api/backup/restore'),
  /** The file itself is the body. */
  restoreFile: post<null, RestoringView>(200, 'lead')('/api/backup/restore-file'),

  protocols: get<ProtocolForm[]>()('/api/protocols'),
  connections: get<ConnectionView[]>()('/api/connections'),
  connection: get<ConnectionPageView>()('/api/connections/:id'),
  editConnection: post<typeof lines.connectionBody, ConnectionPageView>(200, 'lead')('/api/connections/:id'),
  deleteConnection: post<typeof bodies.operatorBody, ConnectionView[]>(200, 'lead')('/api/connections/:id/delete'),
  /** What a position is read by. */
  line: get<LineView>()('/api/lines/:id'),
  setLine: post<typeof lines.lineBody, LineView>(200, 'lead')('/api/lines/:id'),
  /** Reads once what is not kept yet. */
  tryLine: post<typeof lines.lineBody, TriedView>(200, 'lead')('/api/lines/:id/try'),
  removeLine: post<typeof bodies.operatorBody, LineView>(200, 'lead')('/api/lines/:id/remove'),
  keepProfile: post<typeof lines.profileBody, LineView['profiles']>(201, 'lead')('/api/profiles'),
  deleteProfile: post<typeof bodies.operatorBody, LineView['profiles']>(200, 'lead')('/api/profiles/:id/delete'),
  /** Gives a device that sends by itself the address that it sends to, in place of the one that it had. */
  setToken: post<typeof lines.tokenBody, LineView>(200, 'lead')('/api/lines/:id/token'),
  /** What a device sends by itself: whoever has the token is that device. What is answered with 2xx is on disk. */
  ingest: post<null, IngestView>(200, 'anyone')('/api/ingest/:token'),
  /** Active alarms, and those that returned to normal unacknowledged; the most severe first. */
  alarms: get<AlarmView[]>()('/api/alarms'),
  acknowledgeAlarm: post<typeof bodies.operatorBody, AlarmView[]>()('/api/alarms/:id/acknowledge'),
  shelveAlarm: post<typeof alarms.shelveBody, AlarmView[]>()('/api/alarms/:id/shelve'),
  unshelveAlarm: post<typeof bodies.operatorBody, AlarmView[]>()('/api/alarms/:id/unshelve'),
  /** Sensors of which too little is known yet for some alarms. */
  learning: get<LearningView[]>()('/api/alarms/learning'),
  alarmHistory: get<AlarmHistoryView>()('/api/alarms/history', ['from', 'to']),
  alarmHistoryCsv: file()('/api/alarms/history.csv', ['from', 'to']),
  setLimits: post<typeof alarms.limitsBody, SeriesView['limits']>(200, 'lead')('/api/probes/:position/limits'),
  lastDays: get<LastDaysView>()('/api/last-days'),
  /** Places with displays that are read by eye, and the sheet of one. */
  walks: get<WalkPlaceView[]>()('/api/walks'),
  walk: get<WalkView>()('/api/walks/:id'),
  keepWalk: post<typeof walk.walkBody, WalkOutcome>()('/api/walks/:id'),
  /** A reading that was typed wrongly counts no longer, nor what stood beside it. */
  takeBack: post<typeof walk.takeBackBody, { takenBack: true }>()('/api/probes/:position/readings/take-back'),
  /** Who is told of alarms and of what is due. */
  telling: get<TellingView>('lead')('/api/telling'),
  setMailServer: post<typeof telling.mailServerBody, TellingView>(200, 'lead')('/api/telling/mail'),
  addRecipient: post<typeof telling.recipientBody, TellingView>(201, 'lead')('/api/telling/recipients'),
  changeRecipient: post<typeof telling.recipientBody, TellingView>(200, 'lead')('/api/telling/recipients/:id'),
  dropRecipient: post<typeof bodies.operatorBody, TellingView>(200, 'lead')('/api/telling/recipients/:id/drop'),
  /** By the link in a message, without signing in. */
  told: get<ToldView>('anyone')('/api/told/:token'),
  stopTelling: post<typeof telling.stopBody, ToldView>(200, 'anyone')('/api/told/:token/stop'),
  /** Sends one message to what stands on a form. */
  tryTelling: post<typeof telling.tryTellingBody, { sent: true }>(200, 'lead')('/api/telling/try'),
  holds: get<HoldView[]>()('/api/holds'),
  releaseHold: post<typeof lines.releaseHoldBody, HoldView[]>()('/api/holds/:id/release'),
  find: post<typeof lines.findBody, FinderView>(201, 'lead')('/api/finders'),
  finders: get<SearchView[]>('lead')('/api/finders'),
  finder: get<FinderView>('lead')('/api/finders/:id'),
  look: post<typeof lines.lookBody, FinderView>(200, 'lead')('/api/finders/:id/look'),
  stopFinder: post<typeof bodies.operatorBody, FinderView>(200, 'lead')('/api/finders/:id/stop'),
  rig: get<RigView>()('/api/rig'),
  addPosition: post<typeof bodies.addPositionBody, { position: string; id: number }>(201, 'lead')('/api/rig/positions'),
  copyPositions: post<typeof bodies.copyBody, { position: string; id: number }[]>(201, 'lead')('/api/rig/copies'),
  putInUse: post<typeof bodies.inUseBody, { position: string }>(200, 'lead')('/api/rig/positions/:id/in-use'),
  moveSensor: post<typeof bodies.moveSensorBody, ThingView>()('/api/rig/positions/:id/sensor'),
  addThing: post<typeof bodies.addThingBody, ThingView>(201, 'lead')('/api/rig/:subject'),
  thing: get<ThingView>()('/api/rig/:subject/:id'),
  editThing: post<typeof bodies.editThingBody, ThingView>(200, 'lead')('/api/rig/:subject/:id'),
  moves: post<typeof bodies.movesBody, MovesView>(200, 'lead')('/api/rig/:subject/:id/moves'),
  archiveThing: post<typeof bodies.archiveBody, ThingView>(200, 'lead')('/api/rig/:subject/:id/archive'),
  deleteThing: post<typeof bodies.operatorBody, RigView>(200, 'lead')('/api/rig/:subject/:id/delete'),
  undoThing: post<typeof bodies.operatorBody, ThingView>(200, 'lead')('/api/rig/:subject/:id/changes/:change/undo'),

  exportSetUp: file()('/api/rig/set-up.json'),
  importSetUp: post<null, { sensors: number }>(200, 'lead')('/api/bring/set-up', ['operator', 'name', 'take']),
  bringSensors: post<null, BringView>(200, 'lead')('/api/bring/sensors', ['operator', 'name', 'options']),
  bringPast: post<null, BringPastView>(200, 'lead')('/api/bring/past', ['operator', 'name', 'options']),
  bringLog: post<null, BringLogView>(200, 'lead')('/api/bring/log', ['operator', 'name', 'options']),
  takenFiles: get<TakenFile[]>()('/api/bring/taken'),
  takenFileReport: file()('/api/bring/taken/:id.csv'),
  /** The answer of a request that took longer than its sender waited; 202 while it is under way. */
  job: get<unknown>()('/api/jobs/:id'),
  /** Null while nothing is taken in. */
  bringProgress: get<BringProgress | null>()('/api/bring/progress'),

  rounds: get<RoundsView>()('/api/rounds'),
  waits: get<WaitView[]>()('/api/waits'),
  /** A stream: first all of them, then those that have changed. */
  live: get<LiveValue[]>()('/api/live'),

  fleet: get<FleetView>()('/api/probes'),
  probe: get<ProbeView>()('/api/probes/:position'),
  starting: get<StartingView>()('/api/probes/:position/starting'),
  whatIf: post<typeof bodies.rulesBody, WhatIfView>(200, 'viewer')('/api/probes/:position/what-if'),
  changeRules: post<typeof bodies.changeRulesBody, ProbeView>(200, 'lead')('/api/probes/:position/rules'),
  undoRule: post<typeof bodies.operatorBody, ProbeView>(200, 'lead')('/api/probes/:position/changes/:id/undo'),
  answerTest: post<typeof bodies.testAnswerBody, ProbeView>()('/api/probes/:position/tests'),
  noteEvent: post<typeof bodies.sensorEventBody, ProbeView>()('/api/probes/:position/events'),
  confirmCause: post<typeof bodies.causeBody, ProbeView>()('/api/probes/:position/cause'),
  readHourMeter: post<typeof bodies.hourMeterBody, ProbeView>()('/api/probes/:position/hours'),
  restoreDeviceCalibration: post<typeof bodies.operatorBody, ProbeView>()('/api/probes/:position/numbers'),
  /** What a sensor read from `from` to `to`, epoch ms, in `most` bins at most. */
  series: get<SeriesView>()('/api/probes/:position/series', ['from', 'to', 'most', 'ordinary']),
  /** The readings of a span at a resolution: CSV, SenML or Parquet. */
  seriesFile: file()('/api/probes/:position/readings.:format', ['from', 'to', 'most', 'ordinary', 'every']),
  past: get<PastView>()('/api/probes/:position/past/:visit'),
  pastCsv: file()('/api/probes/:position/past/:visit.csv'),

  startVisit: post<typeof bodies.startVisitBody, VisitView>(201)('/api/visits'),
  visit: get<VisitView>()('/api/visits/:id'),
  /** A stream. */
  visitLive: get<VisitLive>()('/api/visits/:id/live'),
  visitSnapshot: get<VisitSnapshot>()('/api/visits/:id/snapshot'),
  done: post<typeof bodies.doneBody, VisitView>()('/api/visits/:id/done'),
  skip: post<typeof bodies.skipBody, VisitView>()('/api/visits/:id/skip'),
  redo: post<typeof bodies.redoBody, VisitView>()('/api/visits/:id/redo'),
  wait: post<typeof bodies.waitBody, VisitView>()('/api/visits/:id/wait'),
  capture: post<typeof bodies.captureBody, VisitView>()('/api/visits/:id/capture'),
  typed: post<typeof bodies.typedReadingBody, VisitView>()('/api/visits/:id/typed'),
  fill: post<typeof bodies.fillBody, VisitView>()('/api/visits/:id/fill'),
  decide: post<typeof bodies.decideBody, VisitView>()('/api/visits/:id/decide'),
  apply: post<typeof bodies.applyBody, VisitView>()('/api/visits/:id/apply'),
  takeOver: post<typeof bodies.takeOverBody, VisitView>()('/api/visits/:id/take-over'),
  abandon: post<typeof bodies.abandonBody, VisitView>()('/api/visits/:id/abandon'),
  exclude: post<typeof bodies.exclusionBody, ProbeView>()('/api/visits/:id/exclusion'),

  startTrip: post<typeof bodies.startTripBody, TripSummary>(201)('/api/trips'),
  trip: get<TripSummary>()('/api/trips/:id'),
  endTrip: post<typeof bodies.endTripBody, TripSummary>()('/api/trips/:id/end'),

  plan: get<PlanView>()('/api/plan'),
  movePlan: post<typeof bodies.movePlanBody, PlanView>()('/api/plan/move'),
  renew: post<typeof bodies.operatorBody, PlanView>()('/api/plan/consumables/:id/renew'),
  renewCalendar: post<typeof bodies.operatorBody, PlanView>(200, 'lead')('/api/plan/calendar/renew'),
  /** Whoever knows its address may read it. */
  calendar: file('anyone')('/api/calendar/:token.ics'),

  shelf: get<ShelfView>()('/api/shelf'),
  addLot: post<typeof bodies.lotBody, ShelfView>(201)('/api/shelf'),
  actOnLot: post<typeof bodies.lotActionBody, ShelfView>()('/api/shelf/:id'),

  addPhoto: post<null, { photo: string }>(201)('/api/photos'),
  photo: file()('/api/photos/:sha256'),

  instruments: get<InstrumentView[]>()('/api/instruments'),
  addInstrument: post<typeof bodies.instrumentBody, InstrumentView[]>(201)('/api/instruments'),

  report: get<ReportView>()('/api/report', ['on', 'from', 'to']),
  reportPdf: file()('/api/report.pdf', ['on', 'from', 'to']),
  reportCsv: file()('/api/report.csv', ['on', 'from', 'to']),

  ledger: get<LedgerRow[]>()('/api/ledger', ['before']),
  exportJson: file()('/api/ledger/export.json', ['visit']),
  exportCsv: file()('/api/ledger/export.csv', ['visit']),
  importRecords: post<null, ImportReport>(200, 'lead')('/api/ledger/import', ['operator', 'name', 'take']),
  record: get<RecordView>()('/api/ledger/:id'),
  correct: post<typeof bodies.correctionBody, RecordView>(201)('/api/ledger/:id/corrections'),
} as const

/** What is done to an open visit, by the name of its endpoint. */
export const VISIT_ACTIONS = [
  'done',
  'skip',
  'redo',
  'wait',
  'capture',
  'typed',
  'fill',
  'decide',
  'apply',
  'takeOver',
  'abandon',
] as const satisfies readonly (keyof typeof ENDPOINTS)[]
export type VisitActionName = (typeof VISIT_ACTIONS)[number]

/** The path of an endpoint with its parameters filled in, and a query where there is one. */
export function addressOf<E extends Endpoint>(
  endpoint: E,
  params: ParamsOf<E>,
  query: Readonly<Record<string, string | number>> = {},
): string {
  const values: Readonly<Record<string, string>> = params
  const path = endpoint.path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(values[name] ?? ''))
  const asked = Object.entries(query).map(([name, value]) => `${name}=${encodeURIComponent(value)}`)
  return asked.length > 0 ? `${path}?${asked.join('&')}` : path
}
