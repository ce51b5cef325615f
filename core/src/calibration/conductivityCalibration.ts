import { type Compensation, uncompensate } from '../conductivity/compensation.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import {
  type ConductivityTable,
  conductivityStandard,
  conductivityStandardValue,
} from '../standards/conductivityStandards.ts'
import { type Budget, type InputQuantity, input, propagateJointly } from '../uncertainty/propagation.ts'

/** One conductivity standard as read on a device with some compensation. */
export interface ConductivityPoint {
  standard: string
  /** As displayed, uS/cm. */
  shown: number
  /** Half-width of its 95 % interval, uS/cm. */
  uncertainty: number
  /** Of the standard, degC. */
  temperature: number
  /** Half-width of its 95 % interval, degC. */
  temperatureUncertainty: number
  lotTable?: ConductivityTable
}

/** true = factor (raw - zero), raw being the displayed value without its compensation. */
export interface ConductivityCalibration {
  school: 'one-point' | 'dry-zero' | 'two-point'
  /** The cell constant to key in is the one in force times this. */
  factor: Budget
  /** uS/cm. */
  zero: Budget
  /** Right values at the standards' temperatures, uS/cm, in their order. */
  expected: number[]
}

/** A plain inverse of the factor's range: beyond it the cell is broken or the unit wrong. */
const PLAUSIBLE_FACTOR = { low: 0.05, high: 20 }

function inputsOf(point: ConductivityPoint, name: string): InputQuantity[] {
  const { uncertainty } = conductivityStandard(point.standard)
  return [
    input(`${name}: reading`, point.shown, point.uncertainty),
    input(`${name}: temperature`, point.temperature, point.temperatureUncertainty),
    input(`${name}: standard value`, 1, uncertainty / 100),
  ]
}

/** Raw reading and right value, uS/cm, for a point's inputs. The thermometer rules both. */
function pairOf(
  point: ConductivityPoint,
  compensation: Compensation,
  v: readonly number[],
  i: number,
): [number, number] {
  const [shown, temperature, scale] = [v[3 * i], v[3 * i + 1], v[3 * i + 2]] as [number, number, number]
  // The device compensates with the temperature it measures; the standard has the one it really has.
  const raw = uncompensate(shown, point.temperature, compensation)
  return [raw, scale * conductivityStandardValue(point.standard, temperature, point.lotTable)]
}

function factorOf(right: number, raw: number): number {
  return requireWithin(
    'Cell factor (right value over reading)',
    right / raw,
    PLAUSIBLE_FACTOR.low,
    PLAUSIBLE_FACTOR.high,
  )
}

/**
 * One standard, with or without a zero taken in dry air before.
 * @param dryAir displayed in dry air and the half-width of its 95 % interval, uS/cm; null where the zero is left alone
 * @throws OutOfRange
 */
export function calibrateConductivity(
  point: ConductivityPoint,
  compensation: Compensation,
  dryAir: { shown: number; uncertainty: number } | null = null,
): ConductivityCalibration {
  requireWithin('Conductivity', point.shown, 1e-3, 2e6, 'µS/cm')
  const inputs = inputsOf(point, 'Standard')
  if (dryAir) {
    requireWithin('Reading in dry air', dryAir.shown, -100, 0.1 * point.shown, 'µS/cm')
    inputs.push(input('Dry air', dryAir.shown, dryAir.uncertainty))
  }
  const model = (v: readonly number[]) => {
    const [raw, right] = pairOf(point, compensation, v, 0)
    const zero = dryAir ? (v[3] as number) : 0
    return [factorOf(right, raw - zero), zero]
  }
  const [factor, zero] = propagateJointly(model, inputs).outputs as [Budget, Budget]
  return {
    school: dryAir ? 'dry-zero' : 'one-point',
    factor,
    zero,
    expected: [conductivityStandardValue(point.standard, point.temperature, point.lotTable)],
  }
}

/** Two standards: factor and zero. @throws OutOfRange, also when the readings are nearer than a factor of 1.5 */
export function calibrateConductivityTwoPoint(
  first: ConductivityPoint,
  second: ConductivityPoint,
  compensation: Compensation,
): ConductivityCalibration {
  for (const point of [first, second]) requireWithin('Conductivity', point.shown, 1e-3, 2e6, 'µS/cm')
  const ratio = Math.max(first.shown, second.shown) / Math.min(first.shown, second.shown)
  requireWithin('Ratio of the two readings', ratio, 1.5, 1e6)
  const model = (v: readonly number[]) => {
    const [raw1, right1] = pairOf(first, compensation, v, 0)
    const [raw2, right2] = pairOf(second, compensation, v, 1)
    const factor = factorOf(right2 - right1, raw2 - raw1)
    return [factor, raw1 - right1 / factor]
  }
  const inputs = [...inputsOf(first, 'First'), ...inputsOf(second, 'Second')]
  const [factor, zero] = propagateJointly(model, inputs).outputs as [Budget, Budget]
  return {
    school: 'two-point',
    factor,
    zero,
    expected: [first, second].map((p) => conductivityStandardValue(p.standard, p.temperature, p.lotTable)),
  }
}

/**
 * Test only, for cells that are never adjusted: error of the reading in a standard.
 * @returns displayed minus right in % of the right value, with its 95 % half-width
 */
export function testConductivity(point: ConductivityPoint, compensation: Compensation): Budget {
  requireWithin('Conductivity', point.shown, 0, 2e6, 'µS/cm')
  return propagateJointly(
    (v) => {
      const [raw, right] = pairOf(point, compensation, v, 0)
      return [100 * (raw / right - 1)]
    },
    inputsOf(point, 'Standard'),
  ).outputs[0] as Budget
}

/** Cell constant from the conductance of a cell in a standard, 1/cm. @param conductance uS @throws OutOfRange */
export function cellConstant(conductance: number, standard: string, temperature: number): number {
  requireWithin('Conductance', conductance, 1e-3, 1e7, 'µS')
  return requireWithin(
    'Cell constant',
    conductivityStandardValue(standard, temperature) / conductance,
    1e-3,
    100,
    '1/cm',
  )
}
