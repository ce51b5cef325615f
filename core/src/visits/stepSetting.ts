import type { Procedure, VisitState } from '../procedures/procedure.ts'
import type { ChosenStandard } from '../procedures/setup.ts'
import type { Step } from '../procedures/step.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import type { SettlingSignature } from '../stability/settlingSignature.ts'
import { knownAs } from './liveFindings.ts'
import { ROOM_TEMPERATURE } from './typing.ts'

/** What a step is judged with. */
export interface StepSetting {
  step: Step | null
  procedure: Procedure
  evidence: VisitState
  past: readonly SettlingSignature[]
}

/** The standard that the sensor goes into; undefined for other steps. */
export const standardOfStep = ({ step, evidence }: StepSetting): ChosenStandard | undefined =>
  step?.medium === 'standard' && step.role ? evidence.setup.standards[step.role] : undefined

/** The value of that standard at a temperature, degC; null where it has none. */
export function standardValueAt(setting: StepSetting, temperature: number): number | null {
  const chosen = standardOfStep(setting)
  if (!chosen) return null
  const { model, setup } = setting.evidence
  return nullIfOutOfRange(() => model.standardValue(chosen.code, temperature, setup.device, chosen.lotTable))
}

/** The value of a signal by what is known of the sensor; null out of its range. */
const knownValue = ({ evidence }: StepSetting, signal: number, temperature: number): number | null =>
  nullIfOutOfRange(() => evidence.model.valueOf(signal, temperature, knownAs(evidence), evidence.setup.device))

/** The signal to expect in the solution of a step, in the water where it is no standard. */
export function expectedSignal(setting: StepSetting): number {
  const { step, evidence } = setting
  const { setup, model } = evidence
  const temperature = step?.medium === 'standard' ? ROOM_TEMPERATURE : setup.processTemperature
  const value = standardValueAt(setting, temperature)
  const inStandard =
    value === null ? null : nullIfOutOfRange(() => model.signalOf(value, temperature, knownAs(evidence), setup.device))
  return inStandard ?? processSignal(evidence)
}

function processSignal({ setup, model }: VisitState): number {
  const { processValue, processTemperature, activeCalibration, device } = setup
  return (
    nullIfOutOfRange(() => model.signalOf(processValue, processTemperature, activeCalibration, device)) ?? processValue
  )
}

/** The expected standard is accepted within this share of the distance at which another would be named. */
const THERE_SHARE = 0.6

/**
 * Whether the sensor is in the solution of the step.
 * @param signal now
 * @param first the first signal of the step
 * @param temperature now, degC
 */
export function hasArrived(setting: StepSetting, signal: number, first: number, temperature: number): boolean {
  const { step, evidence } = setting
  const { model } = evidence
  const now = knownValue(setting, signal, temperature)
  const before = knownValue(setting, first, temperature)
  if (now === null || before === null) return Math.abs(signal - first) > 0
  if (model.distance(now, before) > model.moved) return true
  const inProcess = step?.medium === 'process'
  const cup = inProcess ? Object.values(evidence.readings).findLast((r) => r.standard) : undefined
  const inCup = cup && knownValue(setting, cup.signal, temperature)
  // Far from what it last showed in a cup it is out of it, whatever the water is.
  if (inCup != null && model.distance(now, inCup) > model.moved) return true
  const found = evidence.readings['found-process']
  const water = (found && knownValue(setting, found.signal, found.temperature)) ?? evidence.setup.processValue
  const value = inProcess ? water : standardValueAt(setting, temperature)
  return value !== null && model.distance(now, value) < THERE_SHARE * model.wrongCup.near
}
