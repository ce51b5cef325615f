import {
  CAUSES,
  CHECK_FIRST,
  type CheckFirst,
  DECISIONS,
  type Decision,
  type DeviceSetting,
  FEATURES,
  type FieldSpec,
  type FormValue,
  INTERVAL_METHODS,
  type IntervalMethod,
  kindOf,
  procedures,
  readTypedNumber,
  type SensorKind,
  standards,
  WORKING_PRACTICES,
  type WorkingPractices,
} from '@frustum/core'
import './validationMessages.ts'
import {
  array,
  boolean,
  type InferType,
  mixed,
  number,
  object,
  type Schema,
  type StringSchema,
  string,
  ValidationError,
} from 'yup'

const stepKey = () => string().max(40).required()
const note = () => string().trim().max(500, 'Keep the note under 500 characters.')
const reason = () => note().min(3, 'Say why in a few words.').required('Say why in a few words.')
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

export const redoBody = object({ ...asker, step: stepKey(), reason: reason() }).noUnknown()

export const waitBody = object({
  ...asker,
  step: stepKey(),
  minutes: number()
    .min(1, 'At least a minute.')
    .max(7 * 24 * 60, 'At most a week.')
    .required(),
}).noUnknown()

export const captureBody = object({
  ...asker,
  step: stepKey(),
  /** Set when taken before the judge calls it stable. */
  earlyReason: note().min(3, 'Say why in a few words.'),
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

interface TypedBounds {
  what: string
  low: number
  high: number
  unit: string
  decimals: number
}

/** A number typed by hand: comma or point, within bounds, and a thousandfold slip named as such. */
function typedNumber(bounds: TypedBounds): StringSchema<string>
function typedNumber(bounds: TypedBounds, optional?: boolean): StringSchema<string | undefined>
function typedNumber({ what, low, high, unit, decimals }: TypedBounds, optional = false) {
  const expected = `${low} to ${high}${unit && unit !== 'pH' ? ` ${unit}` : ''}`
  const text = optional ? string() : string().required(`Type the ${what}, ${expected}.`)
  return text.test('typed-number', `Type the ${what} as a number, ${expected}.`, function (typedText) {
    if (optional && (typedText ?? '').trim() === '') return true
    const typed = readTypedNumber(typedText ?? '')
    if (!typed.ok) {
      const message =
        typed.problem === 'empty'
          ? `Type the ${what}, ${expected}.`
          : `"${typedText}" is not a number. Type the ${what}, such as ${exampleOf(low, high).toFixed(decimals)}.`
      return this.createError({ message })
    }
    if (typed.value >= low && typed.value <= high) return true
    const slip = [10, 100, 1000].find((f) => typed.value / f >= low && typed.value / f <= high && typed.value > high)
    const hint = slip ? ` Was it ${(typed.value / slip).toFixed(decimals)}? A decimal mark seems to be missing.` : ''
    return this.createError({ message: `The ${what} is ${typedText}; it must lie within ${expected}.${hint}` })
  })
}

const exampleOf = (low: number, high: number) => (high - low > 1000 ? Math.max(low, 10) : (low + high) / 2)

export const TEMPERATURE_BOUNDS = { what: 'temperature', low: -5, high: 110, unit: '°C', decimals: 1 } as const

/** The bounds of what a device shows, and so of what is typed. */
export function typedBounds(kind: SensorKind, device: DeviceSetting, shows: 'signal' | 'value'): TypedBounds {
  const { model, signalDisplay } = kindOf(kind)
  if (shows === 'signal' && signalDisplay) return { what: 'potential', ...signalDisplay }
  const { unit, decimals } = model.shownScale(device)
  const quantity = model.quantity(device)
  return {
    what: unit === 'pH' ? 'pH' : quantity.toLowerCase(),
    ...model.shownRange(device),
    unit,
    decimals,
  }
}

/** What the fields of a typed reading must hold. */
export const typedReadingFields = (bounds: TypedBounds) =>
  object({ value: typedNumber(bounds), temperature: typedNumber(TEMPERATURE_BOUNDS) })

export type TypedReadingFields = InferType<ReturnType<typeof typedReadingFields>>

export const typedReadingBody = (bounds: TypedBounds) =>
  object({ ...asker, step: stepKey() })
    .concat(typedReadingFields(bounds))
    .noUnknown()

/** What a form step asks for, as a schema; numbers are typed text. */
export function formSchema(fields: readonly FieldSpec[]) {
  return object(
    Object.fromEntries(
      fields.map((field) => {
        switch (field.kind) {
          case 'number':
            return [
              field.key,
              typedNumber(
                {
                  what: field.label.toLowerCase(),
                  low: field.low ?? -1e9,
                  high: field.high ?? 1e9,
                  unit: field.unit ?? '',
                  decimals: field.decimals ?? 2,
                },
                field.optional,
              ),
            ]
          case 'choice':
            return [
              field.key,
              field.optional
                ? string()
                : string()
                    .oneOf(
                      (field.choices ?? []).map((c) => c.value),
                      'Choose one.',
                    )
                    .required('Choose one.'),
            ]
          case 'tick':
            return [field.key, field.must ? boolean().oneOf([true], 'Tick it when it is so.').required() : boolean()]
          default: {
            const text = string().max(500, 'Keep it under 500 characters.')
            const ask = `Type the ${field.label.toLowerCase()}.`
            return [
              field.key,
              field.optional ? text : text.test('not-blank', ask, (v) => (v ?? '').trim() !== '').required(ask),
            ]
          }
        }
      }),
    ),
  )
}

/** Typed text of a valid form as values: numbers where numbers are asked for. */
export function formValues(
  fields: readonly FieldSpec[],
  typed: Readonly<Record<string, unknown>>,
): Record<string, number | string | boolean> {
  const values: Record<string, number | string | boolean> = {}
  for (const { key, kind } of fields) {
    const value = typed[key]
    if (kind === 'number') {
      const read = readTypedNumber(String(value ?? ''))
      if (read.ok) values[key] = read.value
    } else if (typeof value === 'boolean') values[key] = value
    else if (typeof value === 'string' && value.trim() !== '') values[key] = value.trim()
  }
  return values
}

export const shownAfterFields = (bounds: TypedBounds) => object({ shownAfter: typedNumber(bounds) })

export const applyBody = (bounds: TypedBounds) =>
  object({
    ...asker,
    /** `link`: written by the program; `keyed`: the operator keyed it in and says what the device shows now. */
    way: mixed<'link' | 'keyed'>().oneOf(['link', 'keyed']).required(),
    shownAfter: string().when('way', {
      is: 'keyed',
      // biome-ignore lint/suspicious/noThenProperty: this is the name that Yup gives the branch
      then: () => typedNumber(bounds),
      otherwise: (s) => s.optional(),
    }),
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
  practices: object(schoolsShape).noUnknown(),
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
  expiresOn: string()
    .matches(/^\d{4}-\d{2}-\d{2}$/, 'Choose the expiry date on the label.')
    .required('Choose the expiry date on the label.'),
  keepsDays: number().integer().min(0).max(3650).required(),
  volume: number().min(1, 'At least 1 mL.').max(100_000).required(),
  storage: string().trim().max(80).required(),
  ownTable: lotTable,
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
      return known[this.parent.feature as string]?.includes(value) ?? false
    }),
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
  inUseHours: number().positive().max(100_000).nullable(),
  hoursPerDay: number().min(0.1).max(24).nullable(),
  checkFirst: string().oneOf(CHECK_FIRST),
  processValue: number(),
}).noUnknown()

type RuleField = 'processValue' | 'tolerance' | 'reliability' | 'floorDays' | 'ceilingDays' | OwnRuleField
/** Fields that only some methods ask for. */
type OwnRuleField = 'fixedDays' | 'inUseHours' | 'hoursPerDay'

/** The rules of a position as they are typed: numbers as text, the reliability in percent. */
export type RulesTexts = { method: IntervalMethod; checkFirst: CheckFirst } & Record<RuleField, string>

const RULE_BOUNDS: Record<RuleField, TypedBounds> = {
  processValue: { what: 'usual value', low: -2000, high: 1e6, unit: '', decimals: 1 },
  tolerance: { what: 'tolerance', low: 0.001, high: 1000, unit: '', decimals: 2 },
  reliability: { what: 'reliability', low: 50, high: 99.9, unit: '%', decimals: 1 },
  floorDays: { what: 'shortest interval', low: 0, high: 3650, unit: 'days', decimals: 0 },
  ceilingDays: { what: 'longest interval', low: 1, high: 3650, unit: 'days', decimals: 0 },
  fixedDays: { what: 'interval', low: 1, high: 3650, unit: 'days', decimals: 0 },
  inUseHours: { what: 'hours in use', low: 1, high: 100_000, unit: 'h', decimals: 0 },
  hoursPerDay: { what: 'hours a day', low: 0.1, high: 24, unit: 'h', decimals: 1 },
}

/** What each method asks for beyond what all need. */
export const METHOD_FIELDS: Record<IntervalMethod, readonly OwnRuleField[]> = {
  drift: [],
  fixed: ['fixedDays'],
  staircase: ['fixedDays'],
  'in-use': ['inUseHours', 'hoursPerDay'],
}

const asks = (method: IntervalMethod, field: RuleField) =>
  !Object.values(METHOD_FIELDS)
    .flat()
    .some((own) => own === field) || METHOD_FIELDS[method].some((own) => own === field)

export const rulesForm = object({
  method: string().oneOf(INTERVAL_METHODS).required(),
  checkFirst: string().oneOf(CHECK_FIRST).required(),
  ...Object.fromEntries(
    Object.entries(RULE_BOUNDS).map(([field, bounds]) => [
      field,
      string().when('method', ([method], schema) => (asks(method, field as RuleField) ? typedNumber(bounds) : schema)),
    ]),
  ),
}).test('above-floor', function above(texts) {
  const typed = texts as RulesTexts
  const [floor, ceiling] = [readTypedNumber(typed.floorDays), readTypedNumber(typed.ceilingDays)]
  if (!floor.ok || !ceiling.ok || floor.value <= ceiling.value) return true
  return this.createError({ path: 'ceilingDays', message: 'Not shorter than the shortest interval.' })
})

/** The rules behind texts that the form has accepted. */
export function rulesOf(texts: RulesTexts): RulesBody {
  const number = (field: RuleField) => {
    const typed = readTypedNumber(texts[field])
    return typed.ok && asks(texts.method, field) ? typed.value : null
  }
  const whole = (field: RuleField) => Math.round(number(field) ?? Number.NaN)
  return {
    method: texts.method,
    checkFirst: texts.checkFirst,
    processValue: number('processValue') ?? Number.NaN,
    tolerance: number('tolerance') ?? Number.NaN,
    reliability: (number('reliability') ?? Number.NaN) / 100,
    floorDays: whole('floorDays'),
    ceilingDays: whole('ceilingDays'),
    fixedDays: number('fixedDays') === null ? null : whole('fixedDays'),
    inUseHours: number('inUseHours'),
    hoursPerDay: number('hoursPerDay'),
  }
}

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
export type RulesBody = InferType<typeof rulesBody>
export type StartVisitBody = InferType<typeof startVisitBody>
export type LotBody = InferType<typeof lotBody>
