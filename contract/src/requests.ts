import {
  type AssumedTemperature,
  CAUSES,
  CHECK_FIRST,
  DECISIONS,
  type Decision,
  FEATURES,
  type FormValue,
  INSTRUMENT_KINDS,
  INTERVAL_METHODS,
  type InstrumentKind,
  procedures,
  SENSOR_EVENTS,
  type SensorEvent,
  type SensorKind,
  sensorKinds,
  standards,
  WATER_KINDS,
  type Water,
  WORKING_PRACTICES,
  type WorkingPractices,
} from '@frustum/core'
import { isCalendarDay } from './calendarDay.ts'
import './validationMessages.ts'
import { array, boolean, type InferType, mixed, number, object, type Schema, string, ValidationError } from 'yup'
import { type TypedBounds, typedNumber, typedReadingFields } from './typedNumber.ts'

const stepKey = () => string().max(40).required()
const note = () => string().trim().max(500, 'Keep the note under 500 characters.')
const reason = () => note().min(3, 'Say why in a few words.').required('Say why in a few words.')

const isoDay = (message: string) => string().test('day', message, (text) => text === undefined || isCalendarDay(text))
const standardCode = () =>
  string()
    .test('standard', 'There is no such standard.', (code) => standards().some((s) => s.code === code))
    .required()

/** Who is asking, and from which browser: one sensor's Bench is one person's at a time. */
const asker = {
  clientId: string().uuid().required(),
  operator: string().trim().min(1).max(80).required(),
  /** The same for every try of one action: sent twice, it is recorded once. */
  actionId: string().uuid(),
  /** Epoch ms, set by an action that waited for the network. */
  madeAt: number().integer(),
}

/** Values by name, where the names are known only at run time. */
const named = <T extends string | number | boolean>(each: Schema) =>
  mixed<Record<string, T>>((value): value is Record<string, T> => value !== null && typeof value === 'object').test(
    'each-value',
    function eachValue(values) {
      const errors = Object.entries(values ?? {}).flatMap(([key, value]) => {
        try {
          each.validateSync(value, { strict: true })
          return []
        } catch (error) {
          return [this.createError({ path: `${this.path}.${key}`, message: (error as Error).message })]
        }
      })
      return errors.length > 0 ? new ValidationError(errors) : true
    },
  )
const formValue = () =>
  mixed<string | number | boolean>().test(
    'form-value',
    'Text, a number or a tick.',
    (v) => v === undefined || ['string', 'number', 'boolean'].includes(typeof v),
  )

export const startVisitBody = object({
  ...asker,
  position: string().max(40).required(),
  procedure: string()
    .test('procedure', 'There is no such procedure.', (id) => procedures().some((p) => p.id === id))
    .required(),
  standards: named<string>(standardCode()).default({}),
  opening: named<FormValue>(formValue()).default({}),
  trip: string().uuid(),
  /** Why what should come before did not. */
  override: note().min(3, 'Say why in a few words.'),
}).noUnknown()

export const takeOverBody = object(asker).noUnknown()

export const abandonBody = object({ ...asker, reason: reason() }).noUnknown()

export const doneBody = object({ ...asker, step: stepKey() }).noUnknown()

export const skipBody = object({ ...asker, step: stepKey(), reason: reason() }).noUnknown()

export const redoBody = object({
  ...asker,
  step: stepKey(),
  reason: reason(),
  /** Set where what was read counts together with the new reading. */
  keeps: boolean(),
}).noUnknown()

export const waitBody = object({
  ...asker,
  step: stepKey(),
  minutes: number()
    .min(0.25, 'At least 15 s.')
    .max(7 * 24 * 60, 'At most a week.')
    .required(),
}).noUnknown()

export const captureBody = object({
  ...asker,
  step: stepKey(),
  /** Set when taken before the judge calls it stable. */
  earlyReason: note().min(3, 'Say why in a few words.'),
  /** As it was read beside a line that does not say it. */
  temperature: string().trim().max(20),
}).noUnknown()

export const fillBody = object({
  ...asker,
  step: stepKey(),
  values: named<FormValue>(formValue()).required(),
}).noUnknown()

export const decideBody = object({
  ...asker,
  step: stepKey(),
  decision: mixed<Decision>()
    .oneOf([...DECISIONS])
    .required(),
  note: note(),
}).noUnknown()

export const typedReadingBody = (bounds: TypedBounds, assumed: AssumedTemperature | null) =>
  object({
    ...asker,
    step: stepKey(),
    /** It stood still, by the operator's own watch: it is captured at once. */
    still: boolean(),
  })
    .concat(typedReadingFields(bounds, assumed))
    .noUnknown()

export const applyBody = (bounds: TypedBounds) =>
  object({
    ...asker,
    /** `link`: written by the program; `keyed`: the operator keyed it in, and a device with a line is asked for it. */
    way: mixed<'link' | 'keyed'>().oneOf(['link', 'keyed']).required(),
    /** What the display of a device without a line shows now. */
    shownAfter: typedNumber(bounds, true),
    /** Why that stands although it is not what it should be. */
    why: reason().optional(),
  }).noUnknown()

export const startTripBody = object({
  ...asker,
  name: string().trim().min(1).max(80).required(),
  positions: array(string().max(40).required()).min(1, 'Choose at least one sensor.').max(40).required(),
}).noUnknown()

export const endTripBody = object(asker).noUnknown()

/** One choice a topic, of those that there are. */
const schoolsShape = Object.fromEntries(
  Object.entries(WORKING_PRACTICES).map(([topic, { choices }]) => [
    topic,
    string().oneOf(Object.keys(choices)).required(),
  ]),
) as unknown as { [Topic in keyof WorkingPractices]: Schema<WorkingPractices[Topic]> }

export const schoolsBody = object({
  operator: asker.operator,
  practices: object(schoolsShape).noUnknown().required(),
}).noUnknown()

/** How long a resolution is kept, days; null: for ever. */
const keptDays = number()
  .typeError('Type whole days, or leave it empty.')
  .nullable()
  .defined()
  .integer('Type whole days.')
  .min(30, 'A month at least: what is usual is learned from it.')
  .max(36_500, 'Leave it empty for ever.')

export const keepingBody = object({
  operator: asker.operator,
  readingsDays: keptDays,
  hoursDays: keptDays.when('readingsDays', ([readings], schema) =>
    schema.test(
      'coarser-longer',
      'Hours are kept at least as long as readings.',
      (hours) => hours === null || (typeof readings === 'number' && (hours ?? 0) >= readings),
    ),
  ),
}).noUnknown()

const lotTable = object({
  temperatures: array(number().required()).min(2, 'A table needs two rows or more.').required(),
  values: array(number().required()).min(2).required(),
}).default(undefined)

export const lotBody = object({
  operator: asker.operator,
  standard: standardCode(),
  lot: string()
    .trim()
    .min(1, 'Type the lot number on the label.')
    .max(60)
    .required('Type the lot number on the label.'),
  /** ISO dates. */
  expiresOn: isoDay('Choose the expiry date on the label.').required('Choose the expiry date on the label.'),
  keepsDays: number().integer().min(0).max(3650).required(),
  volume: number().min(1, 'At least 1 mL.').max(100_000).required(),
  storage: string().trim().max(80).required(),
  ownTable: lotTable,
}).noUnknown()

export const instrumentBody = object({
  operator: asker.operator,
  kind: mixed<InstrumentKind>()
    .oneOf(Object.keys(INSTRUMENT_KINDS) as InstrumentKind[])
    .required(),
  name: string().trim().min(2, 'Type its name.').max(80).required('Type its name.'),
  serial: string().trim().max(80),
  /** ISO date. */
  calibratedOn: isoDay('Choose the day.'),
  /** Half-width, in `unit`. */
  uncertainty: number().moreThan(0, 'More than nothing.').max(1e6),
  unit: string().max(20),
}).noUnknown()

export const lotActionBody = object({
  operator: asker.operator,
  action: mixed<'open' | 'discard' | 'use'>().oneOf(['open', 'discard', 'use']).required(),
  milliliters: number().min(0.1).max(100_000),
  reason: note(),
}).noUnknown()

export const correctionBody = object({
  operator: asker.operator,
  text: note().min(3, 'Say what is to be read instead, and why.').required('Say what is to be read instead, and why.'),
}).noUnknown()

/** A visit taken out of the forecast, or back into it. */
export const exclusionBody = object({
  operator: asker.operator,
  excluded: boolean().required(),
  reason: reason(),
}).noUnknown()

export const testAnswerBody = object({
  operator: asker.operator,
  feature: string().oneOf(Object.keys(FEATURES)).required(),
  answer: string()
    .required()
    .test('an-answer', 'That is no answer to this.', function answers(value) {
      const known: Readonly<Record<string, readonly string[]>> = FEATURES
      const feature = String(this.parent.feature)
      return Object.hasOwn(known, feature) && (known[feature]?.includes(value) ?? false)
    }),
}).noUnknown()

/** Something that happened to a sensor, entered by hand. */
export const sensorEventBody = object({
  operator: asker.operator,
  kind: string()
    .oneOf(Object.keys(SENSOR_EVENTS) as SensorEvent[], 'Choose what happened.')
    .required('Choose what happened.'),
  /** Epoch ms; not in the future. */
  at: number().integer().required(),
  note: note().default(''),
  /** Of a photo that was sent before. */
  photo: string().matches(/^[0-9a-f]{64}$/, 'There is no such photo.'),
}).noUnknown()

export const causeBody = object({
  operator: asker.operator,
  cause: string().oneOf(CAUSES).required(),
}).noUnknown()

/** How long the sensor at a position may be left alone. */
export const rulesBody = object({
  method: string().oneOf(INTERVAL_METHODS).required(),
  tolerance: number().positive('The tolerance must be above zero.').max(1e4).required(),
  reliability: number().min(0.5, 'At least 50 %.').max(0.999, 'At most 99.9 %.').required(),
  floorDays: number().integer().min(0).max(3650).required(),
  ceilingDays: number()
    .integer()
    .max(3650)
    .required()
    .test('above-floor', 'Not shorter than the shortest interval.', function above(value) {
      return value >= (this.parent.floorDays as number)
    }),
  fixedDays: number().integer().min(1).max(3650).nullable(),
  inUseHours: number().min(1, 'At least 1 h.').max(100_000).nullable(),
  hoursPerDay: number().min(0.1).max(24).nullable(),
  checkFirst: string().oneOf(CHECK_FIRST),
  processValue: number(),
}).noUnknown()

/** New rules, and who sets them; a reason is asked for where a limit is loosened. */
export const changeRulesBody = rulesBody.concat(object({ operator: asker.operator, why: note() })).noUnknown()

/** What an hour meter shows; it may show less than before only when it was changed. */
export const hourMeterBody = object({
  operator: asker.operator,
  hours: number()
    .typeError('Type the hours as a number.')
    .min(0, 'Not below zero.')
    .max(1e6, 'At most 1000000.')
    .required(),
  newMeter: boolean().default(false),
}).noUnknown()

/** Sensors put on another day by hand, or back on what is proposed (null). */
export const movePlanBody = object({
  operator: asker.operator,
  positions: array(string().max(40).required()).min(1).max(200).required(),
  to: number().integer().nullable().defined(),
}).noUnknown()

/** Who does it, where nothing else is to be said. */
export const operatorBody = object({ operator: asker.operator }).noUnknown()

export type HourMeterBody = InferType<typeof hourMeterBody>
export type SensorEventBody = InferType<typeof sensorEventBody>
export type ChangeRulesBody = InferType<typeof changeRulesBody>
export type RulesBody = InferType<typeof rulesBody>
export type StartVisitBody = InferType<typeof startVisitBody>
export type LotBody = InferType<typeof lotBody>
export type InstrumentBody = InferType<typeof instrumentBody>

/** A site, where there is none yet, and who sets it up. */
export const setUpBody = object({
  name: string().trim().min(1, 'Type the name of the site.').max(80).required('Type the name of the site.'),
  person: string().trim().min(1, 'Type your name.').max(80).required('Type your name.'),
  timeZone: string()
    .required()
    .test('time-zone', 'There is no such time zone.', (zone) => isTimeZone(zone)),
}).noUnknown()

function isTimeZone(zone: string | undefined): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone })
    return zone !== undefined && zone !== ''
  } catch {
    return false
  }
}

/** A sensor goes: to the other's place, or to store. */
export const moveSensorBody = object({
  operator: asker.operator,
  swapWith: number()
    .integer()
    .min(1)
    .max(2 ** 31 - 1),
  storage: string().trim().max(120),
}).noUnknown()

const typedFields = () => named<FormValue>(formValue()).required()

/** Something new: its fields as they are typed. */
export const addThingBody = object({
  operator: asker.operator,
  values: typedFields(),
  kind: string(),
  placeId: number(),
}).noUnknown()

/** Whether something was entered wrong from the beginning, or became otherwise on a day. */
export const CHANGE_MODES = ['wrong', 'changed'] as const
export type ChangeMode = (typeof CHANGE_MODES)[number]

const changeMode = () =>
  mixed<ChangeMode>()
    .oneOf([...CHANGE_MODES])
    .default('wrong')
/** ISO date on which it became so. */
const changedOn = () => isoDay('Choose the day.')

/** Fields with what stood in them when they were looked at, so that two who change the same are told apart. */
export const editThingBody = object({
  operator: asker.operator,
  values: typedFields(),
  seen: typedFields(),
  mode: changeMode(),
  on: changedOn(),
  why: note(),
}).noUnknown()

export const movesBody = object({ values: typedFields(), mode: changeMode(), on: changedOn() }).noUnknown()
export type MovesBody = InferType<typeof movesBody>

export const archiveBody = object({ operator: asker.operator, archived: boolean().required(), why: note() }).noUnknown()

/** A new position: where, for what, read by which device, with which rules. */
export const addPositionBody = object({
  operator: asker.operator,
  kind: mixed<SensorKind>()
    .test('kind', 'There is no such kind of sensor.', (kind) => sensorKinds().some((k) => k === kind))
    .required('Choose what it measures.'),
  water: mixed<Water>().oneOf(WATER_KINDS, 'Choose the water.').required('Choose the water.'),
  /** One that is there, or the name of a new one. */
  placeId: number().integer(),
  placeName: string().trim().max(80),
  deviceId: number().integer(),
  deviceName: string().trim().max(80),
  /** Fields of the new device, of where it is, and of its rules. */
  values: typedFields(),
  /** It is at work already: what is there is taken on as it is. */
  inUse: boolean().default(false),
}).noUnknown()

/** Positions to be copied to a place, each with its new code. */
export const copyBody = object({
  operator: asker.operator,
  placeName: string().trim().max(80).required('Enter the place.'),
  sensors: array(
    object({
      id: number().integer().min(1).max(2_147_483_647).required(),
      code: string().trim().max(60).required('Enter a code.'),
      spot: string().trim().max(80),
    }).noUnknown(),
  )
    .min(1, 'Choose at least one sensor.')
    .max(500, 'At most 500 sensors at once.')
    .required(),
}).noUnknown()
export type CopyBody = InferType<typeof copyBody>

export const inUseBody = object({
  operator: asker.operator,
  serial: string().trim().max(60).default(''),
  model: string().trim().max(80).default(''),
}).noUnknown()

export type AddPositionBody = InferType<typeof addPositionBody>
export type EditThingBody = InferType<typeof editThingBody>
