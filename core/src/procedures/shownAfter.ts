import type { CalibrationParameters } from '../measurement/measurementModel.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'
import type { VisitState } from './procedure.ts'
import { displayed } from './words.ts'

/** In a standard half of the tolerance is a lot; water that was read minutes ago moves by itself (common practice, no source). */
const ALLOWED = { standard: 0.5, process: 2 }
/** Rounding and a last look may differ by so many last digits. */
const DIGITS = 2

/**
 * What a display says after its device was given numbers, against what it should say where the sensor was read last.
 * @param characteristic what the device was given
 * @param shown as it was typed, in the unit of the display
 * @returns `should` in the unit of the display, null where nothing is known of it; whether the two are too far apart
 */
export function compareShownAfter(
  state: VisitState,
  characteristic: CalibrationParameters,
  shown: number,
): { should: number | null; differs: boolean } {
  const { model, setup } = state
  // A step that is taken again is put last again.
  const last = Object.values(state.readings).at(-1)
  if (!last) return { should: null, differs: false }
  const should = nullIfOutOfRange(() => displayed(state, { ...last, shown: null }, characteristic))
  if (should === null) return { should, differs: false }
  const { temperature } = last
  const value = (display: number) =>
    model.valueOf(
      model.fromShown(display, temperature, characteristic, setup.device),
      temperature,
      characteristic,
      setup.device,
    )
  const apart = nullIfOutOfRange(() => Math.abs(model.errorOf(value(shown), value(should))))
  const allowed = setup.tolerance * (last.standard ? ALLOWED.standard : ALLOWED.process)
  const digit = 10 ** -model.shownScale(setup.device).decimals
  return { should, differs: apart === null || (apart > allowed && Math.abs(shown - should) > DIGITS * digit) }
}
