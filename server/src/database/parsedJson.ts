import { customType } from 'drizzle-orm/pg-core'

/**
 * Where a value is not what it should be, and what it is not there: "reading.signal is no number"; null when all is well.
 * What is wrong with the value itself begins with a space.
 */
export type Check = (value: unknown) => string | null

/** Thrown when a row holds what no version of Frustum wrote there. */
export class DamagedRow extends Error {
  constructor(what: string, why: string) {
    super(`The database holds no ${what} where there should be one (${why.trim()}). Nothing was changed.`)
    this.name = 'DamagedRow'
  }
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

export const holds =
  (test: (value: unknown) => boolean, wanted: string): Check =>
  (value) =>
    value === undefined ? ' is missing' : test(value) ? null : ` is no ${wanted}`

/** What is wrong within a part of a value, as of the whole. */
const within = (part: string, why: string | null): string | null =>
  why === null ? null : /^[ [.]/.test(why) ? part + why : `${part}.${why}`

export const isText = holds((value) => typeof value === 'string', 'text')
export const isNumber = holds((value) => typeof value === 'number' && Number.isFinite(value), 'number')
export const isFlag = holds((value) => typeof value === 'boolean', 'yes or no')
export const isList = holds(Array.isArray, 'list')
export const isOneOf = (...values: readonly unknown[]): Check =>
  holds((value) => values.includes(value), `choice that is known`)
export const anyOf =
  (...checks: readonly Check[]): Check =>
  (value) =>
    checks.some((check) => check(value) === null) ? null : (checks[0]?.(value) ?? null)
export const orNull =
  (check: Check): Check =>
  (value) =>
    value === null ? null : check(value)
export const orMissing =
  (check: Check): Check =>
  (value) =>
    value === undefined ? null : check(value)
export const listOf =
  (check: Check): Check =>
  (value) =>
    isList(value) ?? first((value as unknown[]).map((v, i) => within(`[${i + 1}]`, check(v))))
/** Any keys, each with such a value. */
export const recordOf =
  (check: Check): Check =>
  (value) =>
    isShape(value) ?? first(Object.entries(value as object).map(([key, v]) => within(key, check(v))))
/** These keys at least; others are left as they are. */
export const shapeOf =
  (checks: Readonly<Record<string, Check>>): Check =>
  (value) =>
    isShape(value) ??
    first(Object.entries(checks).map(([key, check]) => within(key, check((value as Record<string, unknown>)[key]))))

const isShape = holds(isObject, 'set of values')
const first = (found: readonly (string | null)[]): string | null => found.find((why) => why !== null) ?? null

/**
 * A jsonb column that is checked when it is read: what it says to be is what it is.
 * @param what in the words of a message: "calibration"
 * @throws DamagedRow when a row is read that is none
 */
export const parsedJson = <T>(what: string, check: Check) =>
  customType<{ data: T; driverData: unknown }>({
    dataType: () => 'jsonb',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (value) => {
      const why = check(value)
      if (why !== null) throw new DamagedRow(what, why)
      return value as T
    },
  })
