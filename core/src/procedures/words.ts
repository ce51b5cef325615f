import type { Standard } from '../standards/standard.ts'
import type { VisitState } from './procedure.ts'

/** A bottled standard of the visit's own kind. @throws RangeError for an unknown one */
export function standardOfVisit({ kind }: Pick<VisitState, 'kind'>, code: string): Standard {
  const found = kind.standards.find((s) => s.code === code)
  if (!found) throw new RangeError(`There is no standard "${code}" for this kind of sensor.`)
  return found
}

/** What is printed on the bottle chosen for a role. */
export function standardLabel(evidence: VisitState, role: string): string {
  const chosen = evidence.setup.standards[role]
  return chosen ? standardOfVisit(evidence, chosen.code).label : 'the standard'
}

/** A displayed value as it stands on the device. */
export function shownText(evidence: VisitState, shown: number): string {
  const { model, setup } = evidence
  const { unit, decimals } = model.shownScale(setup.device)
  return `${shown.toFixed(decimals)}${unit === 'pH' ? '' : ` ${unit}`}`
}

/** An error or a tolerance with its unit. */
export function errorText(evidence: VisitState, error: number, sign = true): string {
  const { unit, decimals } = evidence.model.errorScale
  const rounded = error.toFixed(decimals)
  const text = Number(rounded) === 0 ? rounded.replace('-', '') : rounded
  return `${sign && Number(text) > 0 ? '+' : ''}${text} ${unit}`
}

/** A signal as it is shown at its level. */
export function signalText(evidence: VisitState, signal: number, level = signal): string {
  const { unit, decimals, factor } = evidence.model.signalScale(Math.abs(level))
  return `${(signal * factor).toFixed(decimals)} ${unit}`
}
