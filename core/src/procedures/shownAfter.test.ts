import { expect, it } from 'vitest'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { procedureOf } from '../kinds/index.ts'
import { reduceVisit, type VisitEntry } from '../visits/visitReducer.ts'
import { compareShownAfter } from './shownAfter.ts'

const procedure = procedureOf('ph-two-point')
const setup = testSetup(procedure, 'ph', { linked: false, shows: 'value', tolerance: 0.1 })

/** An electrode with its zero at +6 mV, read last in pH 7.00 at 25 degC through an ideal calibration. */
const read: VisitEntry = {
  type: 'captured',
  step: 'found-standard',
  reading: {
    source: 'display-typed',
    signal: 6,
    signalUncertainty: 0.3,
    temperature: 25,
    shown: 6.9,
    stability: { state: 'stable', reason: 'own-watch', seconds: 0, confidence: 95 },
    trace: [],
    signature: null,
    standard: { code: 'pH7.00', value: 7, lot: null, expired: false, openTooLong: false, daysOver: 0 },
  },
}
const stateAfter = (...entries: VisitEntry[]) =>
  reduceVisit(
    procedure,
    setup,
    0,
    entries.map((entry, i) => ({ at: i, entry })),
  ).evidence
const given = { zero: 6, slopeEfficiency: 1 }

it('a display that took its numbers shows the standard it stands in, and one that did not is seen', () => {
  // 6 mV is exactly the zero that was given: pH 7.
  const at = (shown: number) => compareShownAfter(stateAfter(read), given, shown)
  expect(at(7).should).toBeCloseTo(7, 9)
  expect([6.97, 7, 7.04].map((shown) => at(shown).differs)).toEqual([false, false, false])
  // As before the numbers: 6 mV at 59.16 mV a pH is 0.10 too low; and a number of another cup.
  expect([6.9, 4.01, 10.01].map((shown) => at(shown).differs)).toEqual([true, true, true])
})

it('where nothing was read nothing is expected', () => {
  expect(compareShownAfter(stateAfter(), given, 4.01)).toEqual({ should: null, differs: false })
})
