import { CHECK_FIRST, type CheckFirst, INTERVAL_METHODS, type IntervalMethod, readTypedNumber } from '@frustum/core'
import { object, string } from 'yup'
import { decimalMark } from './decimalMark.ts'
import type { RulesBody } from './requests.ts'
import { type TypedBounds, typedNumber } from './typedNumber.ts'

type RuleField = 'processValue' | 'tolerance' | 'reliability' | 'floorDays' | 'ceilingDays' | OwnRuleField
/** Fields that only some methods ask for. */
type OwnRuleField = 'fixedDays' | 'inUseHours' | 'hoursPerDay'

/** The rules of a position as they are typed: numbers as text, the reliability in percent. */
export type RulesTexts = { method: IntervalMethod; checkFirst: CheckFirst } & Record<RuleField, string>

/** Of each number of a rule: its name, its bounds, its unit where it does not come with the kind. */
export const RULE_BOUNDS: Record<RuleField, TypedBounds> = {
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
  const [floor, ceiling] = [
    readTypedNumber(typed.floorDays, decimalMark()),
    readTypedNumber(typed.ceilingDays, decimalMark()),
  ]
  if (!floor.ok || !ceiling.ok || floor.value <= ceiling.value) return true
  return this.createError({ path: 'ceilingDays', message: 'Not shorter than the shortest interval.' })
})

/** The rules behind texts that the form has accepted. */
export function rulesOf(texts: RulesTexts): RulesBody {
  const number = (field: RuleField) => {
    const typed = readTypedNumber(texts[field], decimalMark())
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
