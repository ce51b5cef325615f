import type { Finding } from '../../calibration/finding.ts'
import { type IonPoint, PAIR_TEMPERATURE_RULE, pairGapRule } from '../../calibration/ionCalibration.ts'
import { findNoResponse } from '../../calibration/slips.ts'
import { degreesApart, millivolts, quantity, say } from '../../quantities/sentence.ts'

/** Ion standards nearer than this factor give no trustworthy slope (common practice, no source). */
const ION_FACTOR_RULE = 3

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
      sentence: say`The standards are a factor of ${quantity(ratio, '', 1)} apart; the slope from them is mostly noise.`,
      advice: say`Use standards at least a factor of ${quantity(ION_FACTOR_RULE, '', 0)} apart.`,
      numbers: { ratio },
    })
  }
  const apart = Math.abs(high.temperature - low.temperature)
  if (apart > PAIR_TEMPERATURE_RULE) {
    found.push({
      code: 'temperatures-apart',
      severity: 'warn',
      sentence: say`The two standards are ${degreesApart(apart, 2)} apart; ${degreesApart(PAIR_TEMPERATURE_RULE, 2)} is the most.`,
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
  const limits = say`${quantity(rule.low, '', 1)} to ${millivolts(rule.high)}`
  if (rule.gap < 0) {
    return [
      {
        code: 'standards-swapped',
        severity: 'stop',
        sentence: say`The stronger standard gave the signal of the weaker: the gap is ${millivolts(rule.gap)}.`,
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
      sentence: say`The two readings are ${millivolts(rule.gap)} apart; ${limits} is expected for these standards.`,
      advice: small
        ? 'An ageing tip, or a standard that is not fresh: take the points again with fresh standards. If it stays, hydrate the tip for a day; then replace it.'
        : 'More than a tip can give: a standard is off. Repeat with fresh standards.',
      numbers,
    },
  ]
}
