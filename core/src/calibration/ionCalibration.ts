import { IONS } from '../chemistry/ions.ts'
import type { IonCharacteristic } from '../electrode/ionSelective.ts'
import { nernstSlope } from '../electrode/nernst.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { ION_STANDARD_UNCERTAINTY, type IonStandard, ionStandardValue } from '../standards/ionStandards.ts'
import { type Budget, type InputQuantity, input, propagateJointly } from '../uncertainty/propagation.ts'

/** One ion standard as read. */
export interface IonPoint {
  standard: Pick<IonStandard, 'ion' | 'counterIon' | 'molarity'>
  /** Settled signal, mV. */
  millivolts: number
  /** Half-width of its 95 % interval, mV. */
  uncertainty: number
  /** degC */
  temperature: number
  /** Half-width of its 95 % interval, degC; 0.3 unless said (common practice, no source). */
  temperatureUncertainty?: number
}

const USUAL_TEMPERATURE_UNCERTAINTY = 0.3

/**
 * An ion calibration: at each of one or two levels of temperature E0 and slope efficiency; between them both go in a
 * straight line with temperature.
 */
export interface IonCalibration {
  charge: number
  levels: { temperature: number; zero: Budget; slopeEfficiency: Budget; covariance: number }[]
}

const LN10 = Math.LN10

/** log10 of the activity in a standard, and the ideal slope there, mV per decade. */
function abscissa(point: IonPoint): { logActivity: number; slope: number } {
  const { activityMolar } = ionStandardValue(point.standard, point.temperature)
  return {
    logActivity: Math.log10(activityMolar),
    slope: nernstSlope(point.temperature) / IONS[point.standard.ion].charge,
  }
}

function inputsOf(point: IonPoint, name: string): InputQuantity[] {
  const { logActivity } = abscissa(point)
  return [
    input(`${name}: signal`, point.millivolts, point.uncertainty),
    input(`${name}: log of the standard`, logActivity, ION_STANDARD_UNCERTAINTY / 100 / LN10),
    input(`${name}: temperature`, point.temperature, point.temperatureUncertainty ?? USUAL_TEMPERATURE_UNCERTAINTY),
  ]
}

function pairFit(high: IonPoint, low: IonPoint): IonCalibration['levels'][number] {
  const charge = IONS[high.standard.ion].charge
  const model = ([e1, x1, t1, e2, x2, t2]: readonly number[]) => {
    const u1 = (nernstSlope(t1 as number) / charge) * (x1 as number)
    const u2 = (nernstSlope(t2 as number) / charge) * (x2 as number)
    const eta = ((e2 as number) - (e1 as number)) / (u2 - u1)
    return [(e1 as number) - eta * u1, eta]
  }
  const { outputs, covariance } = propagateJointly(model, [...inputsOf(high, 'High'), ...inputsOf(low, 'Low')])
  const [zero, slopeEfficiency] = outputs as [Budget, Budget]
  return {
    temperature: (high.temperature + low.temperature) / 2,
    zero,
    slopeEfficiency,
    covariance: (covariance[0] as number[])[1] as number,
  }
}

function checkPoints(points: readonly IonPoint[]): void {
  if (new Set(points.map((p) => p.standard.ion)).size !== 1) throw new RangeError('All points must be of one ion.')
  for (const p of points) requireWithin('Potential', p.millivolts, -2000, 2000, 'mV')
}

function checkPair(high: IonPoint, low: IonPoint): void {
  const ratio = high.standard.molarity / low.standard.molarity
  requireWithin('High standard over low standard', ratio, 1.2, 1e6)
}

/**
 * Ion calibration from two, three or four points.
 * Two: high and low standard at one temperature. Three: the high standard once more near the sample's temperature, which
 * gives E0 there while the efficiency is kept. Four: both once more, which gives both there.
 * @throws RangeError for points of different ions; OutOfRange for standards nearer than a factor of 1.2, and as abscissa
 */
export function calibrateIon(
  high: IonPoint,
  low: IonPoint,
  warmHigh: IonPoint | null = null,
  warmLow: IonPoint | null = null,
): IonCalibration {
  const points = [high, low, warmHigh, warmLow].filter((p) => p !== null)
  checkPoints(points)
  checkPair(high, low)
  const base = pairFit(high, low)
  const charge = IONS[high.standard.ion].charge
  if (!warmHigh) return { charge, levels: [base] }
  requireWithin(
    'Distance of the two temperature levels',
    Math.abs(warmHigh.temperature - base.temperature),
    2,
    60,
    '°C',
  )
  if (warmLow) {
    checkPair(warmHigh, warmLow)
    return { charge, levels: [base, pairFit(warmHigh, warmLow)] }
  }
  const { outputs, covariance } = propagateJointly(
    ([e, x, t, eta]) => [
      (e as number) - (eta as number) * (nernstSlope(t as number) / charge) * (x as number),
      eta as number,
    ],
    [
      ...inputsOf(warmHigh, 'High, near the sample\u2019s temperature'),
      input('Slope efficiency', base.slopeEfficiency.value, base.slopeEfficiency.uncertainty),
    ],
  )
  const [zero, slopeEfficiency] = outputs as [Budget, Budget]
  return {
    charge,
    levels: [
      base,
      {
        temperature: warmHigh.temperature,
        zero,
        slopeEfficiency,
        covariance: (covariance[0] as number[])[1] as number,
      },
    ],
  }
}

/** How far beyond its levels a calibration may be used, degC. */
const BEYOND = 10

/**
 * E0 and efficiency at a temperature: between the two levels in a straight line, with one level the same everywhere.
 * @throws OutOfRange more than 10 degC beyond the levels
 */
export function ionCharacteristicAt(calibration: IonCalibration, temperature: number): IonCharacteristic {
  const [first, second] = calibration.levels
  if (!first) throw new RangeError('A calibration has at least one level.')
  const temperatures = calibration.levels.map((l) => l.temperature)
  requireWithin(
    'Temperature',
    temperature,
    Math.min(...temperatures) - BEYOND,
    Math.max(...temperatures) + BEYOND,
    '°C',
  )
  const share = second ? (temperature - first.temperature) / (second.temperature - first.temperature) : 0
  const at = (key: 'zero' | 'slopeEfficiency') =>
    first[key].value + share * ((second ?? first)[key].value - first[key].value)
  return { zero: at('zero'), slopeEfficiency: at('slopeEfficiency'), charge: calibration.charge }
}

/** One-point correction by a sample measured elsewhere: E0 moves, the slope is kept. @returns change of E0, mV */
export function ionZeroShift(
  result: number,
  frozen: number,
  electrode: IonCharacteristic,
  temperature: number,
): number {
  requireWithin('Result of the sample', result, 1e-6, 1e6)
  requireWithin('Reading at the moment of the sample', frozen, 1e-6, 1e6)
  const slope = (electrode.slopeEfficiency * nernstSlope(temperature)) / electrode.charge
  // The device showed `frozen` for the signal that belongs to `result`.
  return slope * Math.log10(frozen / result)
}

/** Two temperatures of a pair may differ by this, degC (common practice, no source). */
export const PAIR_TEMPERATURE_RULE = 0.5
/** Gap of the chloride pair 319 / 46.2 mg/L, mV (common practice, no source). */
const CHLORIDE_GAP = { low: 40, high: 55, decades: Math.log10(319 / 46.2), slope: nernstSlope(25) }

/** The gap between two readings that a sound tip gives, mV, scaled from the chloride rule to standards and temperature used. */
export function pairGapRule(high: IonPoint, low: IonPoint): { gap: number; low: number; high: number } {
  checkPoints([high, low])
  checkPair(high, low)
  const a = abscissa(high)
  const b = abscissa(low)
  const ideal = Math.abs(((a.slope + b.slope) / 2) * (a.logActivity - b.logActivity))
  const scale = ideal / (CHLORIDE_GAP.decades * CHLORIDE_GAP.slope)
  return {
    gap: Math.sign(a.slope) * (high.millivolts - low.millivolts),
    low: CHLORIDE_GAP.low * scale,
    high: CHLORIDE_GAP.high * scale,
  }
}
