import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import type { Standard } from '../measurement/standard.ts'
import { difference, type Quantity, quantity, signedQuantity } from '../quantities/sentence.ts'
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

/** The value of a standard: conductivities on the scale of their size, others as on the label. */
export function standardQuantity(e: Pick<VisitState, 'kind' | 'model'>, code: string, value: number): Quantity {
  const { unit, decimals } = standardOfVisit(e, code)
  return unit === e.model.signalUnit && unit !== 'mV' ? signalQuantity(e, value) : quantity(value, unit, decimals)
}

/** A displayed value on the scale of the device. */
export function shownQuantity({ model, setup }: Pick<VisitState, 'model' | 'setup'>, shown: number): Quantity {
  const { unit, decimals } = model.shownScale(setup.device)
  return quantity(shown, unit, decimals)
}

/** What the display said of a reading: as it was read, or as it is worked out from the signal where nobody read it. */
export function displayed(
  { model, setup }: Pick<VisitState, 'model' | 'setup'>,
  reading: Pick<CapturedReading, 'shown' | 'signal' | 'temperature'>,
  calibration: CalibrationParameters = setup.activeCalibration,
): number {
  return reading.shown ?? model.toShown(reading.signal, reading.temperature, calibration, setup.device)
}

/** An error with its sign, or a width without. */
export function errorQuantity({ model }: Pick<VisitState, 'model'>, error: number, sign = true): Quantity {
  const { unit, decimals } = model.errorScale
  return (sign ? signedQuantity : difference)(error, unit, decimals)
}

/** A signal as it is shown at its level. */
export function signalQuantity({ model }: Pick<VisitState, 'model'>, signal: number, level = signal): Quantity {
  const { unit, decimals, factor } = model.signalScale(Math.abs(level))
  return quantity(signal * factor, unit, decimals)
}
