import { nernstSlope } from '../electrode/nernst.ts'
import { ISOTHERMAL_PH, type PhCharacteristic, phToMillivolts } from '../electrode/phElectrode.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { phBuffer, phBufferValue } from '../standards/phBuffers.ts'
import { leastSquares } from '../statistics/leastSquares.ts'
import { type Budget, type InputQuantity, input, propagateJointly } from '../uncertainty/propagation.ts'
import {
  calibratePhTwoPoint,
  type PhCalibration,
  type PhPoint,
  USUAL_TEMPERATURE_UNCERTAINTY,
} from './phCalibration.ts'

export interface PhFit {
  characteristic: PhCharacteristic
  /** mV. */
  zero: Budget
  /** 1. */
  slopeEfficiency: Budget
  /** Of zero (mV) and slope efficiency. */
  covariance: number
  /** Measured minus fitted at each point, in their order, mV. */
  residuals: number[]
}

/** The inputs of one point: its signal, its temperature, and how far the buffer may be from its table. */
function inputsOf(point: PhPoint, name: string): InputQuantity[] {
  const buffer = phBuffer(point.bufferCode)
  return [
    input(`${name}: signal`, point.millivolts, point.millivoltsUncertainty),
    input(`${name}: temperature`, point.temperature, point.temperatureUncertainty ?? USUAL_TEMPERATURE_UNCERTAINTY),
    { name: `${name}: buffer value`, estimate: 0, sd: buffer.uncertainty / 2 },
  ]
}

/** Potential of an ideal electrode with zero 0 in this buffer, mV. */
function idealPotential(point: PhPoint, temperature: number, bufferError: number, isothermalPh: number): number {
  const ph = phBufferValue(point.bufferCode, temperature, point.lotTable) + bufferError
  return nernstSlope(temperature) * (isothermalPh - ph)
}

/**
 * pH calibration by least squares through two or more buffers: E = E0 + eta u with u = k(T) (pHiso - pH(T)).
 * Uncertainty by the law of propagation (JCGM 100:2008).
 * @throws RangeError for fewer than two different buffers; OutOfRange as calibratePhTwoPoint
 */
export function calibratePhLeastSquares(points: readonly PhPoint[], isothermalPh = ISOTHERMAL_PH): PhFit {
  if (new Set(points.map((p) => p.bufferCode)).size < 2) throw new RangeError('A slope needs two different standards.')
  for (const point of points) {
    requireWithin('Potential', point.millivolts, -2000, 2000, 'mV')
    phBufferValue(point.bufferCode, point.temperature, point.lotTable)
  }
  const inputs = points.flatMap((p, i) => inputsOf(p, `Point ${i + 1}`))
  const fit = (values: readonly number[]) => {
    const u = points.map((p, i) =>
      idealPotential(p, values[3 * i + 1] as number, values[3 * i + 2] as number, isothermalPh),
    )
    const { intercept, slope } = leastSquares(
      u,
      points.map((_, i) => values[3 * i] as number),
    )
    return [intercept, slope]
  }
  const { outputs, covariance } = propagateJointly(fit, inputs)
  const [zero, slopeEfficiency] = outputs as [Budget, Budget]
  return {
    characteristic: { zero: zero.value, slopeEfficiency: slopeEfficiency.value, isothermalPh },
    zero,
    slopeEfficiency,
    covariance: (covariance[0] as number[])[1] as number,
    residuals: points.map(
      (p) => p.millivolts - zero.value - slopeEfficiency.value * idealPotential(p, p.temperature, 0, isothermalPh),
    ),
  }
}

/** A calibration of straight pieces between neighbouring buffers. */
export interface PhBracketing {
  /** From the lowest pH up. */
  segments: { lowPh: number; highPh: number; calibration: PhCalibration }[]
}

/**
 * pH calibration by bracketing: one two-point calibration between each two neighbouring buffers.
 * @throws RangeError for fewer than two different buffers
 */
export function calibratePhBracketing(points: readonly PhPoint[], isothermalPh = ISOTHERMAL_PH): PhBracketing {
  const ordered = points
    .map((point) => ({ point, ph: phBufferValue(point.bufferCode, point.temperature, point.lotTable) }))
    .sort((a, b) => a.ph - b.ph)
  if (ordered.length < 2) throw new RangeError('Bracketing needs two or more standards.')
  const segments = ordered.slice(1).map((upper, i) => {
    const lower = ordered[i] as (typeof ordered)[number]
    return {
      lowPh: lower.ph,
      highPh: upper.ph,
      calibration: calibratePhTwoPoint(lower.point, upper.point, isothermalPh),
    }
  })
  return { segments }
}

/** The piece that holds for a signal: the one whose buffers enclose it, or the outermost on that side. */
export function segmentFor(bracketing: PhBracketing, millivolts: number, temperature: number): PhCalibration {
  requireWithin('Potential', millivolts, -2000, 2000, 'mV')
  const found = bracketing.segments.find(
    // Signals fall as pH rises.
    ({ highPh, calibration }) => millivolts >= phToMillivolts(highPh, temperature, calibration),
  )
  return (found ?? (bracketing.segments.at(-1) as PhBracketing['segments'][number])).calibration
}

/**
 * One-point calibration: the zero that makes the device agree with a buffer or a sample measured elsewhere, the slope kept.
 * @param millivolts signal at the moment of the sample
 * @param reference pH of the sample at its temperature, with the half-width of its 95 % interval
 */
export function calibratePhOnePoint(
  signal: { millivolts: number; uncertainty: number; temperature: number },
  reference: { ph: number; uncertainty: number },
  slope: { slopeEfficiency: number; uncertainty: number },
  isothermalPh = ISOTHERMAL_PH,
): Budget {
  requireWithin('Potential', signal.millivolts, -2000, 2000, 'mV')
  requireWithin('pH', reference.ph, -1, 15)
  requireWithin('Slope efficiency', slope.slopeEfficiency, 0.05, 2)
  const k = nernstSlope(signal.temperature)
  return propagateJointly(
    ([e, ph, eta]) => [(e as number) - (eta as number) * k * (isothermalPh - (ph as number))],
    [
      input('Signal', signal.millivolts, signal.uncertainty),
      input('Reference', reference.ph, reference.uncertainty),
      input('Slope efficiency', slope.slopeEfficiency, slope.uncertainty),
    ],
  ).outputs[0] as Budget
}
