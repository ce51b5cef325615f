import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { parametersSentence } from '../measurement/parametersSentence.ts'
import { isWhole } from '../measurement/wholeCalibration.ts'
import { quantity, type Sentence } from '../quantities/sentence.ts'
import { calibrationResult, errorAfter, errorInStandard, pointReading, VERIFY_KEYS } from './assess.ts'
import { tellableOf } from './heldCalibration.ts'
import type { Assessment, Figure, Observation, PastPoints, Procedure, VisitState } from './procedure.ts'
import type { FieldSpec, Step } from './step.ts'
import { standardOfVisit } from './words.ts'

/**
 * Calibrations of the past, as a list or a sheet of paper tells them. What was read goes through the arithmetic of a
 * visit; what nobody noted (settling, noise, lots, cleaning) is unknown, and nothing is proposed.
 */

/** The line that a list fills in: its row as it stands there. */
export const LIST_STEP = 'list'
/** The line of the numbers that the device said. */
export const STATED_STEP = 'stated'

/** Said of a row where the device computes otherwise since. */
const CALIBRATED_FIELD: FieldSpec = {
  key: 'calibrated',
  label: 'Calibrated then',
  kind: 'choice',
  choices: [
    { value: 'yes', label: 'yes' },
    { value: 'no', label: 'no, only looked at' },
  ],
}

const wasCalibrated = (e: VisitState) => e.forms[LIST_STEP]?.values.calibrated === 'yes'

/** The parameters that a list may state of a sensor, on the scale on which they are keyed in. */
const statedFields = ({ model }: Pick<VisitState, 'model'>): FieldSpec[] =>
  model.parameters
    .filter((p) => !p.condition && !p.secondLevel)
    .map(({ key, label, unit, low, high, decimals }) => ({
      key,
      label,
      kind: 'number',
      unit,
      low,
      high,
      decimals,
      optional: true,
    }))

const step = (key: string, short: string, more: Partial<Step>): Step => ({
  key,
  kind: 'form',
  short,
  title: short,
  hint: '',
  main: '',
  usualSkips: [],
  after: [],
  ...more,
})

/** What its record has, in its order. */
function stepsOf(base: Procedure | null, e: VisitState): Step[] {
  const known = base?.steps(e).filter((s) => e.forms[s.key] || (e.readings[s.key] && s.medium !== 'standard')) ?? []
  const inStandards = Object.entries(e.readings).flatMap(([key, { standard }]) => {
    if (!standard) return []
    const { label } = standardOfVisit(e, standard.code)
    const isAfter = (VERIFY_KEYS as readonly string[]).includes(key)
    return [step(key, isAfter ? `${label}, after` : label, { kind: 'capture', medium: 'standard' })]
  })
  // What a row comes to is what there is to say of it.
  return [
    step(LIST_STEP, 'From a list', { kind: 'verdict', fields: [CALIBRATED_FIELD] }),
    ...known,
    ...inStandards,
    ...(e.forms[STATED_STEP] ? [step(STATED_STEP, 'As the list says', { fields: statedFields(e) })] : []),
  ]
}

/** What the list says of the sensor, in the units of the calibration parameters; null where it says nothing. */
function statedOf(e: VisitState): CalibrationParameters | null {
  const values = e.forms[STATED_STEP]?.values
  if (!values) return null
  const known = e.model.parameters.flatMap(({ key, scale }) =>
    typeof values[key] === 'number' ? [[key, values[key] / scale] as const] : [],
  )
  return Object.fromEntries(known)
}

/** What the record tells of the sensor: what the list states, and of the rest what can be told. */
export const toldOf = (e: VisitState, c: CalibrationParameters): CalibrationParameters => ({
  ...tellableOf(e, c),
  ...statedOf(e),
})

/** The parameters that a device computes with since, as far as they can be told; empty where none can. */
export const givenParameters = (e: VisitState, c: CalibrationParameters): Sentence =>
  parametersSentence(e.model, toldOf(e, c))

function statedFigures(e: VisitState, stated: CalibrationParameters): Figure[] {
  return e.model.parameters.flatMap(({ key, label, unit, decimals, scale }) =>
    stated[key] === undefined
      ? []
      : [{ label, value: quantity(stated[key] * scale, unit, decimals), note: 'as the list says' }],
  )
}

const NOTHING_PROPOSED: Pick<Assessment, 'proposal' | 'choices'> = {
  proposal: {
    decision: 'leave-alone',
    reason: 'Taken in from a list: what was decided then is what the list says.',
  },
  choices: [],
}

/** What only numbers without readings say. Against what the device had before they tell an error; else none is known. */
function judgeStated(e: VisitState, stated: CalibrationParameters): Assessment {
  const found = { characteristic: stated, uncertainty: {} }
  const figures = statedFigures(e, stated)
  if (e.setup.previous !== null && !e.setup.unknownParameters && isWhole(e.model, stated)) {
    return calibrationResult(e, { found, findings: [], figures, uncertainty: e.setup.tolerance / 2 })
  }
  return {
    ...NOTHING_PROPOSED,
    figures,
    findings: [],
    found,
    asFoundError: null,
    errorNow: null,
    uncertainty: null,
    fouling: null,
  }
}

function judgePast(e: VisitState, past: PastPoints | undefined): Assessment | null {
  const stated = statedOf(e)
  const read = past?.judge(e) ?? null
  if (!read) return stated && { ...judgeStated(e, stated), ...NOTHING_PROPOSED }
  const found = stated
    ? {
        characteristic: { ...read.found?.characteristic, ...stated },
        uncertainty: read.found?.uncertainty ?? {},
      }
    : read.found
  // What the device said of its sensor is better known than what is worked out behind a display.
  const figures = stated
    ? [
        ...read.figures.filter((f) => !statedFigures(e, stated).some((s) => s.label === f.label)),
        ...statedFigures(e, stated),
      ]
    : read.figures
  return { ...read, ...NOTHING_PROPOSED, figures, found }
}

function observePast(e: VisitState, judged: Assessment | null): Observation | null {
  const calibrated = wasCalibrated(e)
  const after = VERIFY_KEYS.flatMap((key) => pointReading(e, key) ?? [])
  const common = {
    asFound: judged?.errorNow ?? null,
    uncertainty: judged?.uncertainty ?? e.setup.tolerance / 2,
    fouling: null,
  }
  if (e.applied) {
    return { ...common, asLeft: errorAfter(e), verified: after.length > 0, adjusted: true }
  }
  if (!calibrated)
    return common.asFound === null ? null : { ...common, asLeft: common.asFound, verified: true, adjusted: false }
  // Calibrated to numbers that nobody noted: only what it showed afterwards says how it was left.
  const [nearest] = after
    .map((reading) => ({ reading, far: e.model.distance(reading.standard.value, e.setup.processValue) }))
    .sort((a, b) => a.far - b.far)
  if (!nearest) return common.asFound === null ? null : { ...common, asLeft: 0, verified: false, adjusted: true }
  return { ...common, asLeft: errorInStandard(e, nearest.reading).error, verified: true, adjusted: true }
}

/** A calibration of the past with as many points as `base` takes; without one only what a list states. */
export function pastProcedure(base: Procedure | null): Procedure {
  const past = base?.past
  const judge = (e: VisitState) => judgePast(e, past)
  return {
    id: base ? `past-${base.id}` : 'past',
    version: base?.version ?? 1,
    name: base ? `${base.name}, from a list` : 'From a list',
    summary: 'As it was noted elsewhere, before it was taken in here.',
    needs: '',
    pours: {},
    roles: base?.roles ?? [],
    handsOnMinutes: base?.handsOnMinutes ?? 0,
    steps: (e) => stepsOf(base, e),
    ...(past ? { past } : {}),
    judge,
    observe: (e) => observePast(e, judge(e)),
  }
}
