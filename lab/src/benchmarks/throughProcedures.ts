import {
  type CalibrationParameters,
  type CapturedReading,
  type ClosedVisit,
  type DeviceSetting,
  modelOf,
  nullIfOutOfRange,
  type Procedure,
  procedureOf,
  type RecordLine,
  reduceVisit,
  resultFindings,
  type SensorKind,
  type Setup,
  type Step,
  USUAL_PRACTICES,
  type VisitEntry,
} from '@frustum/core'

/** By which procedure the visits of a history are played, and what it calls the readings of each step. */
export interface Played {
  kind: SensorKind
  device: DeviceSetting
  procedure: Procedure
  read: Record<string, string>
  /** Where the readings have another name than the step: those of a standard by its role. */
  standards: { role: string; step: string }[]
}

export const PH_PLAYED: Played = {
  kind: 'ph',
  device: {},
  procedure: procedureOf('ph-two-point'),
  read: {
    'found-process': 'found-process',
    'found-standard': 'found-first',
    'point-1': 'first',
    'point-2': 'second',
    verify: 'back-first',
    back: 'back',
  },
  standards: [
    { role: 'first', step: 'first' },
    { role: 'second', step: 'second' },
  ],
}
const CELL_STEPS = ['found-process', 'found-standard', 'air', 'point-1', 'verify', 'back']
export const CELL_PLAYED: Played = {
  kind: 'conductivity',
  device: {},
  procedure: procedureOf('conductivity-dry-zero'),
  read: Object.fromEntries(CELL_STEPS.map((step) => [step, step])),
  standards: [{ role: 'first', step: 'point-1' }],
}

const ION_STEPS = ['found-process', 'found-standard', 'point-1', 'point-2', 'verify', 'back']
export const ionPlayed = (ion: string): Played => ({
  kind: 'ion',
  device: { ion: ion as DeviceSetting['ion'] },
  procedure: procedureOf('ion-two-point'),
  read: Object.fromEntries(ION_STEPS.map((step) => [step, step])),
  standards: [
    { role: 'high', step: 'point-1' },
    { role: 'low', step: 'point-2' },
  ],
})

/** The water that a history's sensor is in, in the core unit of its kind, and degC. */
interface Water {
  value: number
  celsius: number
  tolerance: number
}

const MINUTE = 60_000

/** The visits of a history as the record has them: every one played by the procedure of the Bench, and judged by it. */
export function throughProcedures(visits: readonly ClosedVisit[], water: Water, played: Played): ClosedVisit[] {
  let previous: Setup['previous'] = null
  let activeCalibration: CalibrationParameters = modelOf(played.kind).ideal
  return visits.map((visit) => {
    const setup = setupOf(visit, water, played, { activeCalibration, previous })
    const { entries, progress } = play(visit, setup, played)
    const { evidence } = progress
    const found = evidence.decisions.result && nullIfOutOfRange(() => played.procedure.judge(evidence, 'result'))?.found
    if (found) previous = { characteristic: found.characteristic, at: visit.at }
    if (evidence.applied) activeCalibration = evidence.applied.characteristic
    return {
      ...visit,
      readings: entries.flatMap(({ entry }) =>
        entry.type === 'captured' ? [{ step: entry.step, reading: entry.reading }] : [],
      ),
      characteristic: found?.characteristic ?? null,
      codes: resultFindings(played.procedure, evidence),
    }
  })
}

function setupOf(
  { readings, numbersChanged }: ClosedVisit,
  water: Water,
  { kind, device, standards }: Played,
  known: Pick<Setup, 'activeCalibration' | 'previous'>,
): Setup {
  const code = (step: string) => readings.find((r) => r.step === step)?.reading.standard?.code as string
  return {
    kind,
    position: 'elsewhere',
    processValue: water.value,
    processTemperature: water.celsius,
    tolerance: water.tolerance,
    device,
    shows: 'signal',
    linked: numbersChanged !== null,
    writable: false,
    adjustsBy: 'numbers',
    calibrationKey: 'CAL',
    ...known,
    standards: Object.fromEntries(standards.map(({ role, step }) => [role, { code: code(step), lot: null }])),
    practices: USUAL_PRACTICES,
    settlingHistory: [],
    authorityRule: null,
    twins: [],
  }
}

function play(visit: ClosedVisit, setup: Setup, { procedure, read: names }: Played) {
  const entries: RecordLine[] = []
  const add = (entry: VisitEntry) => entries.push({ at: visit.at + (entries.length + 1) * MINUTE, entry })
  let progress = reduceVisit(procedure, setup, visit.at, entries)
  for (let n = 0; progress.current && n < 60; n++) {
    doStep(visit, progress.current)
    progress = reduceVisit(procedure, setup, visit.at, entries)
  }
  return { entries, progress }

  function doStep({ readings }: ClosedVisit, step: Step): void {
    const read = (name?: string): CapturedReading | undefined => readings.find((r) => r.step === name)?.reading
    switch (step.kind) {
      case 'capture': {
        const reading = read(names[step.key])
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
        const judged = nullIfOutOfRange(() => procedure.judge(progress.evidence, step.key))
        const decision = judged?.found && judged.choices.includes('adjust') ? 'adjust' : 'leave-alone'
        add({ type: 'decided', step: step.key, decision, proposed: decision, note: null })
        break
      }
      case 'apply': {
        const found = nullIfOutOfRange(() => procedure.judge(progress.evidence, 'result'))?.found
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
