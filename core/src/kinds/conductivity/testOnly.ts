import type { Finding } from '../../calibration/finding.ts'
import type { Decision, ProposedDecision } from '../../judgement/decision.ts'
import { checkVerdict, pointReading, wasRepeated } from '../../procedures/assess.ts'
import type { Assessment, Procedure, VisitState } from '../../procedures/procedure.ts'
import type { Step } from '../../procedures/step.ts'
import { back, clean, foundProcess, foundStandard, hold, leaving, release, verdict } from '../../procedures/steps.ts'
import { standardLabel } from '../../procedures/words.ts'
import { type Quantity, quantity, say, signedQuantity } from '../../quantities/sentence.ts'
import { CONDUCTIVITY_STANDARD, compensationFindings } from './procedures.ts'

/** Cleaning and fresh solution may be tried so often before a cell that is never adjusted is given up. */
const MOST_TESTS = 4

const testKey = (round: number) => (round === 0 ? 'found-standard' : `test-${round}`)
const testVerdict = (round: number) => (round === 0 ? 'verdict' : `verdict-${round}`)

/** Nearer to right by this share after cleaning, it was dirt (common practice, no source). */
const HELPED = 0.01

/** Limits between which a factory-calibrated cell passes: 2.77 mS/cm reads 2.7 to 2.9 (common practice, no source). */
const PASS_BAND = { low: 2.7 / 2.77, high: 2.9 / 2.77 } as const

function judgeTest(e: VisitState, step: string): Assessment | null {
  const round = step === 'verdict' ? 0 : Number(step.split('-')[1])
  const key = testKey(round)
  const checked = checkVerdict(e, key)
  const share = shareOf(e, round)
  if (!checked || share === null) return null
  const choices: readonly Decision[] =
    round + 1 >= MOST_TESTS
      ? ['leave-alone', 'replace', 'repeat']
      : ['leave-alone', 'clean-and-recheck', 'replace', 'repeat']
  // The cell constant in the device is unknown, so the signal doesn't show what is displayed.
  if (checked.errorNow === null) {
    return { ...checked, proposal: { ...checked.proposal, decision: 'leave-alone' }, choices }
  }
  const passes = share >= PASS_BAND.low && share <= PASS_BAND.high
  const setting = compensationFindings(e, [key])
  const band = say`${signedQuantity(100 * PASS_BAND.low - 100, '', 1)} to ${signedQuantity(100 * PASS_BAND.high - 100, '%', 1)}`
  const off = signedQuantity(100 * share - 100, '%', 1)
  return {
    ...checked,
    findings: [...setting, ...checked.findings],
    figures: [
      ...checked.figures.slice(0, 1),
      { label: 'Off by', value: off, note: say`passes from ${band}` },
      { label: 'Test', value: quantity(round + 1, '', 0), note: say`of ${quantity(MOST_TESTS, '', 0)} at the most` },
    ],
    proposal: passes
      ? { decision: 'leave-alone', reason: say`It reads ${off}; ${band} passes. Leave it alone.` }
      : failedTest(e, round, { share, off, setting: setting[0] ?? null }),
    choices,
  }
}

/** Shown in the standard, as a share of what is right. */
function shareOf(e: VisitState, round: number): number | null {
  const reading = pointReading(e, testKey(round))
  if (!reading) return null
  const shown = e.model.valueOf(reading.signal, reading.temperature, e.setup.activeCalibration, e.setup.device)
  return shown / reading.standard.value
}

/**
 * What to do after a failed test, the cheapest test first. Cleaning tells dirt from a wrong setting; it is proposed again
 * only where it helped.
 */
function failedTest(
  e: VisitState,
  round: number,
  { share, off, setting }: { share: number; off: Quantity; setting: Finding | null },
): ProposedDecision {
  // The device itself reports what it measures: the cell is right and its setting wrong.
  if (setting?.severity === 'stop') return { decision: 'repeat', reason: say`${setting.sentence} ${setting.advice}` }
  if (round === 0 && setting) {
    const other = share < 1 ? 'A coated cell reads low as well.' : 'An evaporated solution reads high as well.'
    return {
      decision: 'clean-and-recheck',
      reason: say`${setting.sentence} ${other} Check the setting in the device’s menu; if it is as noted, clean the cell and retest in fresh solution.`,
    }
  }
  if (round === 0) {
    return {
      decision: 'clean-and-recheck',
      reason:
        share < 1
          ? say`The cell reads ${off}. Dirt or a bubble makes it read low: clean it and retest in fresh solution.`
          : say`The cell reads ${off}. A wrong or evaporated solution makes it read high: rinse well and retest in a fresh pouring.`,
    }
  }
  const before = shareOf(e, round - 1)
  const hasHelped = before !== null && Math.abs(before - 1) - Math.abs(share - 1) > HELPED
  if (hasHelped && round + 1 < MOST_TESTS) {
    const was = signedQuantity(100 * before - 100, '%', 1)
    return {
      decision: 'clean-and-recheck',
      reason: say`Cleaning helped: ${was} before, ${off} now. Clean it again and retest in fresh solution.`,
    }
  }
  if (setting && !hasHelped && !wasRepeated(e)) {
    return {
      decision: 'repeat',
      reason: say`Cleaning changed nothing, so the setting is the likelier cause. ${setting.sentence} Set it as noted, then take the reading again.`,
    }
  }
  return {
    decision: 'replace',
    reason: say`Cleaned and tested ${quantity(round + 1, '', 0)} times in fresh solution, and still ${off}. This cell is never adjusted: replace it.`,
  }
}

/** Rounds of testing: one, and one more after each decision to clean and recheck. */
const rounds = (e: VisitState) => {
  let n = 0
  while (e.decisions[testVerdict(n)]?.decision === 'clean-and-recheck' && n + 1 < MOST_TESTS) n++
  return n + 1
}

export const CONDUCTIVITY_TEST_ONLY: Procedure = {
  id: 'conductivity-test-only',
  name: 'Test only',
  summary: 'For factory-calibrated cells: clean and retest, never adjust. Also a quick check of any cell.',
  needs: '2 cups',
  pours: { first: 2 },
  roles: [CONDUCTIVITY_STANDARD],
  version: 1,
  handsOnMinutes: 6,
  steps: (e) => [
    hold(e),
    ...(e.kind.inPlace?.(e) ?? []),
    foundProcess(e),
    foundStandard(e, 'first'),
    ...Array.from({ length: rounds(e) }, (_, n): Step[] => {
      const before = testVerdict(n - 1)
      const test: Step[] =
        n === 0
          ? []
          : [
              clean(e, `clean-${n}`, [before]),
              {
                ...foundStandard(e, 'first'),
                key: testKey(n),
                short: `Test ${n + 1}, ${standardLabel(e, 'first')}`,
                title: `Into a fresh pouring of ${standardLabel(e, 'first')}`,
                hint: `Never the cup of before. ${e.kind.words.immerse}`,
                usualSkips: [],
                after: [`clean-${n}`],
              },
            ]
      return [...test, { ...verdict([testKey(n)], 'Does it pass?'), key: testVerdict(n), repeatFrom: testKey(n) }]
    }).flat(),
    ...(rounds(e) > 1
      ? [back(), release()].map((s) => ({ ...s, after: [testVerdict(rounds(e) - 1)] }))
      : leaving(e, [testVerdict(0)])),
  ],
  judge: judgeTest,
  observe: (e) => {
    const first = checkVerdict(e)
    const last = checkVerdict(e, testKey(rounds(e) - 1)) ?? first
    const found = first ?? last
    if (!found || !last || found.errorNow === null || last.errorNow === null) return null
    return {
      asFound: found.errorNow,
      asLeft: last.errorNow,
      verified: true,
      uncertainty: last.uncertainty ?? e.setup.tolerance / 2,
      fouling: rounds(e) > 1 ? found.errorNow - last.errorNow : null,
      // What cleaning took away starts anew, as after an adjustment.
      adjusted: rounds(e) > 1,
    }
  },
}
