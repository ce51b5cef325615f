import type { Finding, LotFacts } from '../../calibration/finding.ts'
import { findingsOfLots } from '../../calibration/lotFindings.ts'
import { calibratePhTwoPoint, type PhCalibration, type PhPoint } from '../../calibration/phCalibration.ts'
import type { PhBracketing } from '../../calibration/phMultiPoint.ts'
import type { PhCharacteristic } from '../../electrode/phElectrode.ts'
import { celsius, degreesApart, difference, inPercent, millivolts, quantity, say } from '../../quantities/sentence.ts'
import { phBuffer } from '../../standards/phBuffers.ts'
import { PH_LIMITS } from './limits.ts'

/**
 * What two points say about themselves before their result is believed.
 * @param previous characteristic found at the last calibration, if any
 */
export function findingsOfTwoPoints(
  first: PhPoint,
  second: PhPoint,
  lots: { first?: LotFacts; second?: LotFacts } = {},
  previous?: PhCharacteristic,
): Finding[] {
  return [
    ...findingsOfStandards(first, second, lots),
    ...findingsOfTemperatures(first, second),
    ...findingsOfResponse(first, second, previous),
  ]
}

function findingsOfStandards(
  first: PhPoint,
  second: PhPoint,
  lots: { first?: LotFacts; second?: LotFacts },
): Finding[] {
  const found: Finding[] = []
  const a = phBuffer(first.bufferCode)
  const b = phBuffer(second.bufferCode)
  const span = Math.abs(a.nominal - b.nominal)
  if (first.bufferCode === second.bufferCode) {
    found.push({
      code: 'same-standard-twice',
      severity: 'stop',
      sentence: `Both points are ${a.label}.`,
      advice: 'Take the other standard for one of them; a slope needs two different ones.',
      numbers: { span },
    })
  } else if (span < PH_LIMITS.minimumSpan) {
    found.push({
      code: 'points-too-close',
      severity: 'warn',
      sentence: say`${a.label} and ${b.label} are ${difference(span, 'pH', 2)} apart; the slope from them is mostly noise.`,
      advice: say`Use standards at least ${difference(PH_LIMITS.minimumSpan, 'pH', 0)} apart.`,
      numbers: { span },
    })
  }
  return [...found, ...findingsOfLots([lots.first, lots.second])]
}

function findingsOfTemperatures(first: PhPoint, second: PhPoint): Finding[] {
  const found: Finding[] = []
  const gap = Math.abs(first.temperature - second.temperature)
  if (gap > PH_LIMITS.temperatureGap) {
    found.push({
      code: 'temperatures-apart',
      severity: 'warn',
      sentence: say`The two buffers were ${degreesApart(gap)} apart.`,
      advice: 'Float both in the same water until they agree, then repeat the warmer one.',
      numbers: { gap, first: first.temperature, second: second.temperature },
    })
  }
  for (const { temperature } of [first, second]) {
    if (temperature < PH_LIMITS.temperatureLow || temperature > PH_LIMITS.temperatureHigh) {
      found.push({
        code: 'temperature-implausible',
        severity: 'warn',
        sentence: say`A buffer at ${celsius(temperature)} is implausible.`,
        advice: 'Compare with a thermometer; a wrong temperature input spoils the buffer value and the slope.',
        numbers: { temperature },
      })
    }
  }
  return found
}

function findingsOfResponse(first: PhPoint, second: PhPoint, previous?: PhCharacteristic): Finding[] {
  if (first.bufferCode === second.bufferCode) return []
  const result = calibratePhTwoPoint(first, second)
  const { slopeEfficiency: eta, zero, measuredStep, idealStep } = result
  const numbers = { slopeEfficiency: eta, zero, measuredStep, idealStep }
  if (Math.abs(eta) < 0.2) {
    return [
      {
        code: 'no-response',
        severity: 'stop',
        sentence: say`Between the buffers the signal moved ${millivolts(Math.abs(measuredStep))}; expected about ${millivolts(Math.abs(idealStep))}.`,
        advice: 'Look for a cracked bulb, a dry junction, a loose plug, or the same buffer in both cups.',
        numbers,
      },
    ]
  }
  if (eta < 0) {
    const swapped = calibratePhTwoPoint(
      { ...first, bufferCode: second.bufferCode, lotTable: second.lotTable },
      { ...second, bufferCode: first.bufferCode, lotTable: first.lotTable },
    )
    const plausible = swapped.slopeEfficiency > 0.75 && swapped.slopeEfficiency < 1.1 && Math.abs(swapped.zero) < 80
    return [
      plausible
        ? {
            code: 'standards-swapped',
            severity: 'stop',
            sentence: say`The signal went the wrong way; with the two buffers exchanged the slope would be ${inPercent(swapped.slopeEfficiency)}. They look swapped.`,
            advice: 'Check the labels on the cups, rinse, and take both points again.',
            numbers: { ...numbers, exchangedSlope: swapped.slopeEfficiency, exchangedZero: swapped.zero },
          }
        : {
            code: 'wrong-sign',
            severity: 'stop',
            sentence: 'The signal went the wrong way from one buffer to the other.',
            advice: 'Check the plug and the wiring, and take both points again.',
            numbers,
          },
    ]
  }
  return [...findingsOfSlope(eta), ...findingsOfZero(zero), ...findingsOfChange(result, previous)]
}

function findingsOfSlope(eta: number): Finding[] {
  const percent = inPercent(eta)
  const numbers = { slopeEfficiency: eta }
  if (eta > PH_LIMITS.slopeHigh) {
    const code = 'slope-high' as const
    const sentence = say`The slope is ${percent}, more than an electrode can have.`
    return [
      {
        code,
        severity: 'warn',
        sentence,
        advice: 'A buffer is off, not the electrode good. Repeat with fresh buffers.',
        numbers,
      },
    ]
  }
  if (eta < PH_LIMITS.slopeReplace) {
    const sentence = say`The slope is ${percent}; below ${inPercent(PH_LIMITS.slopeReplace, 0)} the glass is worn out.`
    return [
      {
        code: 'slope-low',
        severity: 'warn',
        sentence,
        advice: 'Clean and recheck once; if it stays, replace the sensor.',
        numbers,
      },
    ]
  }
  if (eta < PH_LIMITS.slopeSound) {
    const order = eta < PH_LIMITS.slopeAgeing
    const sentence = say`The slope is ${percent}: the glass is ageing.`
    const advice = order ? 'Order a spare now.' : 'It still serves; watch it.'
    return [{ code: 'slope-ageing', severity: 'note', sentence, advice, numbers }]
  }
  return []
}

function findingsOfZero(zero: number): Finding[] {
  const size = Math.abs(zero)
  const numbers = { zero }
  const sentence = say`The zero point is ${millivolts(zero)} at pH 7.`
  if (size > PH_LIMITS.zeroReplace) {
    return [
      {
        code: 'zero-beyond',
        severity: 'warn',
        sentence,
        advice: 'The reference is spent: replace the sensor.',
        numbers,
      },
    ]
  }
  if (size > PH_LIMITS.zeroWatch) {
    return [
      {
        code: 'zero-beyond',
        severity: 'warn',
        sentence,
        advice: 'Suspect the reference: soak it in storage solution and recheck.',
        numbers,
      },
    ]
  }
  if (size > PH_LIMITS.zeroSound) {
    return [{ code: 'zero-watch', severity: 'note', sentence, advice: 'The reference has moved; watch it.', numbers }]
  }
  return []
}

function findingsOfChange(result: PhCalibration, previous?: PhCharacteristic): Finding[] {
  if (!previous) return []
  const slopeMove = Math.abs(result.slopeEfficiency - previous.slopeEfficiency)
  const zeroMove = Math.abs(result.zero - previous.zero)
  if (slopeMove <= 0.07 && zeroMove <= 25) return []
  return [
    {
      code: 'change-larger-than-drift',
      severity: 'warn',
      sentence: say`Since last time the zero moved ${millivolts(zeroMove)} and the slope ${quantity(100 * slopeMove, '', 1)} points; drift does not explain it.`,
      advice: 'A buffer may be carried over or out of date. Repeat both points in fresh pourings.',
      numbers: { zeroMove, slopeMove },
    },
  ]
}

/** Two pieces of a pH calibration may differ by this in efficiency, 1 (common practice, no source). */
const SEGMENT_RULE = 0.03

/** Whether the pieces of a bracketing calibration contradict each other: then one of the buffers is not what it says. */
export function findingsOfSegments({ segments }: PhBracketing): Finding[] {
  return segments.slice(1).flatMap((upper, i) => {
    const lower = segments[i] as PhBracketing['segments'][number]
    const apart = upper.calibration.slopeEfficiency - lower.calibration.slopeEfficiency
    const known = Math.hypot(upper.calibration.slopeEfficiencyUncertainty, lower.calibration.slopeEfficiencyUncertainty)
    if (Math.abs(apart) <= SEGMENT_RULE || Math.abs(apart) <= known) return []
    return [
      {
        code: 'segments-disagree' as const,
        severity: 'warn' as const,
        sentence: say`Between ${quantity(lower.lowPh, 'pH', 1)} and ${quantity(lower.highPh, '', 1)} the slope is ${inPercent(lower.calibration.slopeEfficiency)}, above it ${inPercent(upper.calibration.slopeEfficiency)}.`,
        advice: 'One buffer is contaminated or out of date, most often the highest. Repeat with fresh pourings.',
        numbers: { apart, known },
      },
    ]
  })
}
