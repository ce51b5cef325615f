import { customType } from 'drizzle-orm/pg-core'

/** Whether a value is what it should be. */
type Check = (value: unknown) => boolean

/** Thrown when a row holds what no version of Frustum wrote there. */
class DamagedRow extends Error {
  constructor(what: string) {
    super(`The database holds no ${what} where there should be one. Nothing was changed.`)
    this.name = 'DamagedRow'
  }
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

export const isText: Check = (value) => typeof value === 'string'
export const isNumber: Check = (value) => typeof value === 'number' && Number.isFinite(value)
export const isFlag: Check = (value) => typeof value === 'boolean'
export const isOneOf =
  (...values: readonly unknown[]): Check =>
  (value) =>
    values.includes(value)
export const orNull =
  (check: Check): Check =>
  (value) =>
    value === null || check(value)
export const orMissing =
  (check: Check): Check =>
  (value) =>
    value === undefined || check(value)
export const listOf =
  (check: Check): Check =>
  (value) =>
    Array.isArray(value) && value.every(check)
/** Any keys, each with such a value. */
export const recordOf =
  (check: Check): Check =>
  (value) =>
    isObject(value) && Object.values(value).every(check)
/** These keys at least; others are left as they are. */
export const shapeOf =
  (checks: Readonly<Record<string, Check>>): Check =>
  (value) =>
    isObject(value) && Object.entries(checks).every(([key, check]) => check(value[key]))

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
      if (!check(value)) throw new DamagedRow(what)
      return value as T
    },
  })
