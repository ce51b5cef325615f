import {
  type CalibrationParameters,
  type CapturedReading,
  type ClosedVisit,
  modelOf,
  nullIfOutOfRange,
  procedureOf,
  type RecordLine,
  reduceVisit,
  resultFindings,
  type Setup,
  type Step,
  USUAL_PRACTICES,
  type VisitEntry,
} from '@frustum/core'
import type { PhHistory } from '@frustum/core/other-simulation'

const PROCEDURE = procedureOf('ph-two-point')
/** Steps of the procedure, and what the history calls its reading. */
const READ: Record<string, string> = {
  'found-process': 'found-process',
  'found-standard': 'found-first',
  'point-1': 'first',
  'point-2': 'second',
  verify: 'back-first',
  back: 'back',
}
const MINUTE = 60_000

/** The visits of a history as the record has them: every one played by the procedure of the Bench, and judged by it. */
export function throughProcedures(history: PhHistory, process: { value: number; celsius: number }): ClosedVisit[] {
  let previous: Setup['previous'] = null
  let activeCalibration: CalibrationParameters = modelOf('ph').ideal
  return history.visits.map((visit) => {
    const setup = setupOf(visit, process, activeCalibration, previous)
    const { entries, progress } = play(visit, setup)
    const { evidence } = progress
    const found = evidence.decisions.result && nullIfOutOfRange(() => PROCEDURE.judge(evidence, 'result'))?.found
    if (found) previous = { characteristic: found.characteristic, at: visit.at }
    if (evidence.applied) activeCalibration = evidence.applied.characteristic
    return {
      ...visit,
      readings: entries.flatMap(({ entry }) =>
        entry.type === 'captured' ? [{ step: entry.step, reading: entry.reading }] : [],
      ),
      characteristic: found?.characteristic ?? null,
      codes: resultFindings(PROCEDURE, evidence),
    }
  })
}

function setupOf(
  { readings, numbersChanged }: ClosedVisit,
  process: { value: number; celsius: number },
  activeCalibration: CalibrationParameters,
  previous: Setup['previous'],
): Setup {
  const code = (step: string) => readings.find((r) => r.step === step)?.reading.standard?.code as string
  return {
    kind: 'ph',
    position: 'elsewhere',
    processValue: process.value,
    processTemperature: process.celsius,
    tolerance: 0.1,
    device: {},
    shows: 'signal',
    linked: numbersChanged !== null,
    writable: false,
    adjustsBy: 'numbers',
    calibrationKey: 'CAL',
    activeCalibration,
    previous,
    standards: { first: { code: code('first'), lot: null }, second: { code: code('second'), lot: null } },
    practices: USUAL_PRACTICES,
    settlingHistory: [],
    authorityRule: null,
    twins: [],
  }
}

function play(visit: ClosedVisit, setup: Setup) {
  const entries: RecordLine[] = []
  const add = (entry: VisitEntry) => entries.push({ at: visit.at + (entries.length + 1) * MINUTE, entry })
  let progress = reduceVisit(PROCEDURE, setup, visit.at, entries)
  for (let n = 0; progress.current && n < 60; n++) {
    doStep(visit, progress.current)
    progress = reduceVisit(PROCEDURE, setup, visit.at, entries)
  }
  return { entries, progress }

  function doStep({ readings }: ClosedVisit, step: Step): void {
    const read = (name?: string): CapturedReading | undefined => readings.find((r) => r.step === name)?.reading
    switch (step.kind) {
      case 'capture': {
        const reading = read(READ[step.key])
        if (reading) add({ type: 'captured', step: step.key, reading })
        else add({ type: 'skipped', step: step.key, reason: 'Not done' })
        break
      }
      case 'wait':
        add({ type: 'waiting', step: step.key, minutes: step.minutes ?? 60, shared: false })
        add({ type: 'done', step: step.key })
        break
      case 'verdict':
      case 'result': {
        const judged = nullIfOutOfRange(() => PROCEDURE.judge(progress.evidence, step.key))
        const decision = judged?.found && judged.choices.includes('adjust') ? 'adjust' : 'leave-alone'
        add({ type: 'decided', step: step.key, decision, proposed: decision, note: null })
        break
      }
      case 'apply': {
        const found = nullIfOutOfRange(() => PROCEDURE.judge(progress.evidence, 'result'))?.found
        add({
          type: 'applied',
          way: 'keyed',
          characteristic: found?.characteristic ?? setup.activeCalibration,
          readBack: null,
          shownAfter: null,
        })
        break
      }
      default:
        add({ type: 'done', step: step.key })
    }
  }
}
