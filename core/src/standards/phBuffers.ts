import { requireWithin } from '../quantities/outOfRange.ts'
import { monotoneInterpolation } from '../statistics/monotoneInterpolation.ts'

export interface PhBuffer {
  /** Stable identifier, kept in records. */
  code: string
  /** What is printed on the bottle. */
  label: string
  /** Nominal pH at 25 degC. */
  nominal: number
  family: 'primary' | 'technical'
  /** Expanded uncertainty (k = 2) of the value as used, pH. */
  uncertainty: number
  source: string
}

/** Rows of a table of pH by temperature in degC. */
export interface PhTable {
  temperatures: readonly number[]
  values: readonly number[]
}

const PRIMARY_TEMPERATURES = [0, 5, 10, 15, 20, 25, 30, 35, 37, 40, 50]
const PRIMARY_SOURCE = 'IUPAC Recommendations 2002 (Buck et al., Pure Appl. Chem. 74, 2169), table of primary standards'

const TECHNICAL_TEMPERATURES = [0, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50]
const TECHNICAL_SOURCE = 'common technical buffers, values as usually printed on the bottle; from memory of such labels'

const primary = (code: string, label: string, nominal: number, values: number[]) => ({
  buffer: { code, label, nominal, family: 'primary', uncertainty: 0.006, source: PRIMARY_SOURCE } as PhBuffer,
  // The tartrate is saturated at 25 degC and has no values below it.
  table: { temperatures: PRIMARY_TEMPERATURES.slice(PRIMARY_TEMPERATURES.length - values.length), values },
})

const technical = (code: string, nominal: number, values: number[]) => ({
  buffer: {
    code,
    label: `pH ${nominal.toFixed(2)}`,
    nominal,
    family: 'technical',
    uncertainty: 0.02,
    source: TECHNICAL_SOURCE,
  } as PhBuffer,
  table: { temperatures: TECHNICAL_TEMPERATURES, values },
})

const ENTRIES: { buffer: PhBuffer; table: PhTable }[] = [
  technical('pH4.01', 4.01, [4.01, 4.0, 4.0, 4.0, 4.0, 4.01, 4.01, 4.02, 4.03, 4.04, 4.06]),
  technical('pH7.00', 7.0, [7.12, 7.09, 7.06, 7.04, 7.02, 7.0, 6.99, 6.98, 6.97, 6.97, 6.97]),
  technical('pH9.00', 9.0, [9.26, 9.19, 9.13, 9.08, 9.04, 9.0, 8.97, 8.94, 8.91, 8.88, 8.86]),
  technical('pH9.21', 9.21, [9.52, 9.45, 9.38, 9.32, 9.26, 9.21, 9.16, 9.11, 9.06, 9.03, 8.99]),
  technical('pH10.01', 10.01, [10.32, 10.25, 10.18, 10.12, 10.06, 10.01, 9.97, 9.93, 9.89, 9.86, 9.83]),
  primary('tartrate', 'Potassium hydrogen tartrate, saturated', 3.557, [3.557, 3.552, 3.549, 3.548, 3.547, 3.549]),
  primary(
    'citrate',
    'Potassium dihydrogen citrate 0.05 mol/kg',
    3.776,
    [3.863, 3.84, 3.82, 3.802, 3.788, 3.776, 3.766, 3.759, 3.756, 3.754, 3.749],
  ),
  primary(
    'phthalate',
    'Potassium hydrogen phthalate 0.05 mol/kg',
    4.005,
    [4.0, 3.998, 3.997, 3.998, 4.0, 4.005, 4.011, 4.018, 4.022, 4.027, 4.05],
  ),
  primary(
    'phosphate-equimolal',
    'Phosphate 0.025 + 0.025 mol/kg',
    6.865,
    [6.984, 6.951, 6.923, 6.9, 6.881, 6.865, 6.853, 6.844, 6.841, 6.838, 6.833],
  ),
  primary(
    'phosphate-blood',
    'Phosphate 0.03043 + 0.008695 mol/kg',
    7.413,
    [7.534, 7.5, 7.472, 7.448, 7.429, 7.413, 7.4, 7.389, 7.386, 7.38, 7.367],
  ),
  primary(
    'borax',
    'Borax 0.01 mol/kg',
    9.18,
    [9.464, 9.395, 9.332, 9.276, 9.225, 9.18, 9.139, 9.102, 9.088, 9.068, 9.011],
  ),
  primary(
    'carbonate',
    'Hydrogen carbonate and carbonate 0.025 + 0.025 mol/kg',
    10.012,
    [10.317, 10.245, 10.179, 10.118, 10.062, 10.012, 9.966, 9.926, 9.91, 9.889, 9.828],
  ),
]

const BY_CODE = new Map<string, { buffer: PhBuffer; valueAt: (temperature: number) => number }>(
  ENTRIES.map(({ buffer, table }) => [
    buffer.code,
    {
      buffer,
      valueAt: monotoneInterpolation(table.temperatures, table.values, `Temperature of ${buffer.label}`, '°C'),
    },
  ]),
)

/**
 * Takes in a buffer of a site's own, in place of one with the same code.
 * @param valueAt its pH at a temperature, degC
 * @example takePhBuffer({ ...phBuffer('pH7.00'), code: 'example', nominal: 6 }, () => 6).nominal // 6
 */
export function takePhBuffer(buffer: PhBuffer, valueAt: (temperature: number) => number): PhBuffer {
  BY_CODE.set(buffer.code, { buffer, valueAt })
  return buffer
}

/** The pH standards that are known everywhere, technical ones first. */
export const PH_BUFFERS: readonly PhBuffer[] = ENTRIES.map((e) => e.buffer)

/**
 * The standard with this code. Throws RangeError for an unknown one.
 * @example phBuffer('pH7.00').nominal // 7
 */
export function phBuffer(code: string): PhBuffer {
  const found = BY_CODE.get(code)
  if (!found) throw new RangeError(`There is no pH standard "${code}".`)
  return found.buffer
}

/**
 * pH of a standard at a temperature, from its table by monotone interpolation.
 * @param temperature degC, within the table (0 to 50; the tartrate from 25)
 * @param lotTable the lot's own printed table, which wins over the general one
 * @throws OutOfRange for a temperature outside the table, RangeError for an unknown code
 * @example phBufferValue('pH7.00', 10) // 7.06
 */
export function phBufferValue(code: string, temperature: number, lotTable?: PhTable): number {
  if (lotTable) {
    const { temperatures, values } = lotTable
    const interpolate = monotoneInterpolation(temperatures, values, 'Temperature of this lot', '°C')
    return interpolate(temperature)
  }
  const found = BY_CODE.get(code)
  if (!found) throw new RangeError(`There is no pH standard "${code}".`)
  return found.valueAt(temperature)
}

/**
 * How fast a standard's pH moves with temperature, pH per degC, by a central difference over 2 degC.
 * @example phBufferTemperatureCoefficient('pH10.01', 25) // -0.0088562
 */
export function phBufferTemperatureCoefficient(code: string, temperature: number, lotTable?: PhTable): number {
  requireWithin('Temperature', temperature, 0, 50, '°C')
  const low = Math.max(0, temperature - 1)
  const high = Math.min(50, temperature + 1)
  return (phBufferValue(code, high, lotTable) - phBufferValue(code, low, lotTable)) / (high - low)
}
