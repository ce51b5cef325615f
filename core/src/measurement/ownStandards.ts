import type { IonCode } from '../chemistry/ions.ts'
import type { ReferenceCode } from '../electrode/referenceElectrodes.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { readTypedNumber } from '../quantities/typedNumber.ts'
import { readTypedTemperature } from '../quantities/typedTemperature.ts'
import { monotoneInterpolation } from '../statistics/monotoneInterpolation.ts'
import type { SensorKind } from './sensorKind.ts'

/** Printed values by temperature, degC rising; one value alone is that at 25 degC. */
export interface PrintedValues {
  temperatures: readonly number[]
  values: readonly number[]
}

/** A standard that a site has beside those that are known everywhere, as its bottle says it. It never changes. */
export interface OwnStandard {
  code: string
  kind: SensorKind
  label: string
  /** pH, uS/cm as it is there, mV, or mg/L of the ion. */
  table: PrintedValues
  /** Half-width of the 95 % interval: pH, % of a conductivity or concentration, mV. */
  uncertainty: number
  /** Of a redox standard: the electrode against which its millivolts are printed. */
  against?: ReferenceCode | 'hydrogen'
  /** Of an ion standard. */
  ion?: IonCode
  caution: string
  archived: boolean
}

/** At which temperature a label's one value holds, and how far from it, degC (common practice, no source). */
export const LABEL_TEMPERATURE = 25
const LABEL_REACH = 5

/** Where the values of a standard are known, degC. */
export const reachOf = ({ temperatures }: PrintedValues): { low: number; high: number } =>
  temperatures.length > 1
    ? { low: temperatures[0] as number, high: temperatures.at(-1) as number }
    : { low: LABEL_TEMPERATURE - LABEL_REACH, high: LABEL_TEMPERATURE + LABEL_REACH }

/** The printed value at a temperature, degC. @throws OutOfRange beyond the table, or far from the label's temperature */
export function printedValue(label: string, table: PrintedValues): (temperature: number) => number {
  const name = `Temperature of ${label}`
  if (table.temperatures.length > 1) return monotoneInterpolation(table.temperatures, table.values, name, '°C')
  const { low, high } = reachOf(table)
  return (temperature) => {
    requireWithin(name, temperature, low, high, '°C')
    return table.values[0] as number
  }
}

/**
 * Reads what is printed on a bottle: one value, or a line for each temperature.
 * @param factor of the unit in which it is printed
 * @returns what is wrong, where it cannot be read
 * @example readPrintedValues('20 478\n25 475', { low: -1000, high: 1500 }) // { temperatures: [20, 25], values: [478, 475] }
 */
export function readPrintedValues(
  text: string,
  { low, high }: { low: number; high: number },
  factor = 1,
): PrintedValues | { problem: string } {
  const lines = text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '')
  if (lines.length === 0) return { problem: 'Type the value on its label.' }
  const rows: (readonly [number, number])[] = []
  for (const line of lines) {
    const [, first, second] = /^(-?[\d.,]+(?:\s*°?\s*[cf])?)\s*[\s:;=|]\s*(-?[\d.,]+)$/i.exec(line) ?? []
    const temperature = first === undefined ? LABEL_TEMPERATURE : readTypedTemperature(first)
    const value = readTypedNumber(second ?? line)
    if (!value.ok || (typeof temperature === 'object' && !temperature.ok)) {
      return { problem: `"${line}" is no value, and no temperature with its value.` }
    }
    const at = typeof temperature === 'object' && temperature.ok ? temperature.value : LABEL_TEMPERATURE
    if (at < 0 || at > 100) return { problem: `${at} °C is no temperature of a standard.` }
    const inUnit = value.value * factor
    if (inUnit < low || inUnit > high)
      return { problem: `${value.value} cannot be; it must lie within ${low / factor} and ${high / factor}.` }
    rows.push([at, inUnit])
  }
  rows.sort((a, b) => a[0] - b[0])
  if (rows.some(([at], i) => i > 0 && at === rows[i - 1]?.[0])) return { problem: 'A temperature is there twice.' }
  return { temperatures: rows.map(([at]) => at), values: rows.map(([, value]) => value) }
}
