import { nernstSlope } from '../electrode/nernst.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import { parametersSentence } from '../measurement/parametersSentence.ts'
import { tellable } from '../measurement/wholeCalibration.ts'
import { expectedShown } from '../procedures/assess.ts'
import { tellableOf } from '../procedures/heldCalibration.ts'
import type { ArithmeticLine, LiveReading, Procedure, VisitState } from '../procedures/procedure.ts'
import type { Step } from '../procedures/step.ts'
import { shownQuantity, standardOfVisit, standardQuantity } from '../procedures/words.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import { celsius, millivolts, say } from '../quantities/sentence.ts'

/** The arithmetic as it happens: where the numbers come from, for who wants to see it. */
export function arithmeticOf(
  procedure: Procedure,
  e: VisitState,
  step: Step | null,
  live: (LiveReading & { uncertainty: number; known: boolean }) | null,
): ArithmeticLine[] {
  return [
    ...(step && live ? atStep(e, step, live) : []),
    ...soFar(procedure, e, step, live),
    {
      title: 'Calibration in the device',
      value: '',
      note: heldSentence(e),
    },
  ]
}

/** As far as it is known. */
function heldSentence(e: VisitState) {
  const { applied, setup } = e
  const known = applied
    ? (applied.readBack ?? tellableOf(e, applied.characteristic))
    : tellable(setup.activeCalibration, setup.unknownParameters ?? [])
  return parametersSentence(e.model, known) || 'unknown'
}

function atStep(e: VisitState, step: Step, live: LiveReading): ArithmeticLine[] {
  const lines: ArithmeticLine[] = []
  const { model, setup } = e
  const code = step.medium === 'standard' && step.role ? setup.standards[step.role]?.code : undefined
  if (code) {
    const standard = standardOfVisit(e, code)
    const lotTable = setup.standards[step.role ?? '']?.lotTable
    const value = nullIfOutOfRange(() => model.standardValue(code, live.temperature, setup.device, lotTable))
    if (value !== null) {
      lines.push({
        title: `${standard.label} here`,
        value: standardQuantity(e, code, value),
        note: say`at ${celsius(live.temperature, 1)}${lotTable ? ', from the lot’s own table' : say`; ${e.kind.standardNote}`}`,
      })
      if (e.kind.expectsDisplay) {
        const shown = nullIfOutOfRange(() => expectedShown(e, value, live.temperature))
        if (shown !== null) {
          lines.push({
            title: 'So this device should show',
            value: shownQuantity(e, shown),
            note: 'with its setting as noted',
          })
        }
      }
    }
  }
  if (e.kind.slopeTitle) {
    lines.push({
      title: e.kind.slopeTitle,
      value: millivolts(nernstSlope(live.temperature), 2),
      note: say`ln 10 · R T / F at ${celsius(live.temperature, 1)}`,
    })
  }
  return lines
}

/** What the result would be if the step ended where it is believed to end. */
function soFar(
  procedure: Procedure,
  e: VisitState,
  step: Step | null,
  live: (LiveReading & { uncertainty: number; known: boolean }) | null,
): ArithmeticLine[] {
  const provisional =
    step?.kind === 'capture' && step.key.startsWith('point-') && live?.known ? asCaptured(e, step, live) : null
  const evidence = step && provisional ? { ...e, readings: { ...e.readings, [step.key]: provisional } } : e
  const judged = nullIfOutOfRange(() => procedure.judge(evidence, 'result'))
  if (!judged || judged.found === null) return []
  return judged.figures
    .slice(0, 2)
    .map((f) => ({ title: provisional ? `${f.label} so far` : f.label, value: f.value, note: f.note }))
}

function asCaptured(e: VisitState, step: Step, live: LiveReading & { uncertainty: number }): CapturedReading | null {
  const chosen = step.role ? e.setup.standards[step.role] : undefined
  const value = chosen
    ? nullIfOutOfRange(() => e.model.standardValue(chosen.code, live.temperature, e.setup.device, chosen.lotTable))
    : null
  if (step.medium === 'standard' && value === null) return null
  return {
    source: 'not-noted',
    signal: live.signal,
    signalUncertainty: live.uncertainty,
    temperature: live.temperature,
    shown: live.shown,
    stability: { state: 'settling', reason: 'value-moving', seconds: 0, confidence: 0 },
    trace: [],
    signature: null,
    ...(chosen && value !== null
      ? { standard: { code: chosen.code, value, lot: null, expired: false, openTooLong: false, daysOver: 0 } }
      : {}),
  }
}
