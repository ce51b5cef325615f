import type { ConductivityCalibration, ConductivityPoint } from './conductivityCalibration.ts'
import type { Finding } from './finding.ts'
import { type IonPoint, PAIR_TEMPERATURE_RULE, pairGapRule } from './ionCalibration.ts'
import type { OrpCalibration } from './orpCalibration.ts'
import type { PhBracketing } from './phMultiPoint.ts'
import { findNoResponse } from './slips.ts'

const one = (value: number) => value.toFixed(1)

/** Two pieces of a pH calibration may differ by this in efficiency, 1 (common practice, no source). */
export const SEGMENT_RULE = 0.03

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
        sentence: `Between pH ${one(lower.lowPh)} and ${one(lower.highPh)} the slope is ${one(100 * lower.calibration.slopeEfficiency)} %, above it ${one(100 * upper.calibration.slopeEfficiency)} %.`,
        advice: 'One buffer is contaminated or out of date, most often the highest. Repeat with fresh pourings.',
        numbers: { apart, known },
      },
    ]
  })
}

/** Ion standards nearer than this factor give no trustworthy slope (common practice, no source). */
export const ION_FACTOR_RULE = 3

/** What an ion pair says of itself: too close, swapped, temperatures apart, no response, gap outside. */
export function findingsOfIonPair(high: IonPoint, low: IonPoint): Finding[] {
  const ratio = high.standard.molarity / low.standard.molarity
  if (ratio < 1.2) {
    return [
      {
        code: ratio > 0.99 ? 'same-standard-twice' : 'standards-swapped',
        severity: 'stop',
        sentence: 'The high standard is not stronger than the low one.',
        advice: 'Take two standards at least a factor of 3 apart, the stronger as the high one.',
        numbers: { ratio },
      },
    ]
  }
  const found: Finding[] = []
  if (ratio < ION_FACTOR_RULE) {
    found.push({
      code: 'points-too-close',
      severity: 'warn',
      sentence: `The standards are a factor of ${one(ratio)} apart; the slope from them is mostly noise.`,
      advice: `Use standards at least a factor of ${ION_FACTOR_RULE} apart.`,
      numbers: { ratio },
    })
  }
  const apart = Math.abs(high.temperature - low.temperature)
  if (apart > PAIR_TEMPERATURE_RULE) {
    found.push({
      code: 'temperatures-apart',
      severity: 'warn',
      sentence: `The two standards are ${apart.toFixed(2)} °C apart; ${PAIR_TEMPERATURE_RULE} °C is the most.`,
      advice: 'Let both come to the same temperature and take the points again.',
      numbers: { apart },
    })
  }
  return [...found, ...findingsOfGap(high, low)]
}

function findingsOfGap(high: IonPoint, low: IonPoint): Finding[] {
  const rule = pairGapRule(high, low)
  const middle = (rule.low + rule.high) / 2
  const dead = findNoResponse(rule.gap, middle)
  if (dead) return [dead]
  const numbers = { gap: rule.gap, low: rule.low, high: rule.high }
  const limits = `${one(rule.low)} to ${one(rule.high)} mV`
  if (rule.gap < 0) {
    return [
      {
        code: 'standards-swapped',
        severity: 'stop',
        sentence: `The stronger standard gave the signal of the weaker: the gap is ${one(rule.gap)} mV.`,
        advice: 'The cups were swapped, or the points were filed the wrong way round. Take both again.',
        numbers,
      },
    ]
  }
  if (rule.gap >= rule.low && rule.gap <= rule.high) return []
  const small = rule.gap < rule.low
  return [
    {
      code: 'gap-outside',
      severity: 'warn',
      sentence: `The two readings are ${one(rule.gap)} mV apart; ${limits} is right for these standards.`,
      advice: small
        ? 'An ageing tip: hydrate it and repeat once with fresh standards; if it stays, replace the tip.'
        : 'More than a tip can give: a standard is off. Repeat with fresh standards.',
      numbers,
    },
  ]
}

/** A cell factor beyond these is dirt, a wrong cell constant or a wrong standard, 1 (common practice, no source). */
export const CELL_FACTOR_RULE = { low: 0.8, high: 1.25 }
/** A dry cell shows less than this share of its standard (common practice, no source). */
export const DRY_SHARE = 0.005

/** What a conductivity calibration says of itself: a cell that was not dry, a factor beyond belief. */
export function findingsOfConductivity(result: ConductivityCalibration, point: ConductivityPoint): Finding[] {
  const found: Finding[] = []
  const { factor, zero } = result
  if (result.school === 'dry-zero' && Math.abs(zero.value) > DRY_SHARE * point.shown) {
    found.push({
      code: 'cell-not-dry',
      severity: 'warn',
      sentence: `In dry air the cell shows ${zero.value.toPrecision(3)} µS/cm.`,
      advice: 'Blow it out, let it dry for up to two hours, and take the zero again.',
      numbers: { zero: zero.value },
    })
  }
  if (factor.value < CELL_FACTOR_RULE.low || factor.value > CELL_FACTOR_RULE.high) {
    const low = factor.value > 1
    found.push({
      code: 'factor-beyond',
      severity: 'warn',
      sentence: `The cell reads ${one(100 / factor.value)} % of what is right.`,
      advice: low
        ? 'Low: clean the cell again, tap the bubbles off, and retest in fresh solution before you adjust.'
        : 'High: rinse again, look for a bridge between the electrodes, and check the cell constant keyed in.',
      numbers: { factor: factor.value },
    })
  }
  return found
}

/** An ORP offset beyond this is a reference that is going; beyond twice of it, gone, mV (common practice, no source). */
export const ORP_OFFSET_RULE = 30
/** An ORP channel has no slope to lose: a gain beyond this is electronics or a wrong standard, 1 (common practice, no source). */
export const ORP_GAIN_RULE = 0.05

/** What an ORP calibration says of itself. */
export function findingsOfOrp({ gain, offset, school }: OrpCalibration): Finding[] {
  const found: Finding[] = []
  const size = Math.abs(offset.value)
  if (size > ORP_OFFSET_RULE) {
    const gone = size > 2 * ORP_OFFSET_RULE
    found.push({
      code: 'zero-beyond',
      severity: gone ? 'stop' : 'warn',
      sentence: `The offset is ${one(offset.value)} mV.`,
      advice: gone
        ? 'Do not adjust it away: polish the metal, renew the standard, and replace the sensor if it stays.'
        : 'Suspect the reference: clean the junction and the metal, and repeat in fresh standard.',
      numbers: { offset: offset.value },
    })
  }
  if (school !== 'offset' && Math.abs(gain.value - 1) > ORP_GAIN_RULE) {
    found.push({
      code: gain.value > 1 ? 'slope-low' : 'slope-high',
      severity: 'warn',
      sentence: `The channel shows ${one(100 / gain.value)} % of the step it should.`,
      advice: 'Metal does not lose slope: check the standard first, then the electronics with a simulator.',
      numbers: { gain: gain.value },
    })
  }
  return found
}
