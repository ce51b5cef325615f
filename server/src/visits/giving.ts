import {
  type CalibrationParameters,
  compareShownAfter,
  type GivenCalibration,
  nullIfOutOfRange,
  readTypedNumber,
  render,
  say,
  shownQuantity,
  type VisitEntry,
  type VisitState,
} from '@frustum/core'
import { heldOf, readKeyedCalibration } from '../links/deviceCalibration.ts'
import type { Links } from '../links/links.ts'
import { Problem } from '../problem.ts'
import { type OpenedVisit, withLines } from '../records/openVisit.ts'

export interface Given {
  way: 'keyed'
  shownAfter?: string | undefined
  why?: string | undefined
}

/**
 * What came of keying numbers in: a device with a connection is read back at once, of another the display is compared with
 * what it should show.
 * @throws Problem when the device holds, or shows, something else
 */
export async function keyedInCalibration(
  links: Links,
  { progress: { evidence }, setup }: OpenedVisit,
  characteristic: CalibrationParameters,
  { way, shownAfter, why }: Given,
): Promise<GivenCalibration> {
  const calibration = links.link(setup.position)?.calibration
  if (calibration) {
    const held = await readKeyedCalibration(calibration, evidence.model, characteristic)
    return { way, characteristic: heldOf(held, characteristic), readBack: held, shownAfter: null }
  }
  return { way, characteristic, readBack: null, shownAfter: seenAfter(evidence, characteristic, shownAfter, why) }
}

function seenAfter(
  state: VisitState,
  characteristic: CalibrationParameters,
  shownAfter: string | undefined,
  why: string | undefined,
): GivenCalibration['shownAfter'] {
  const { model, setup } = state
  const typed = readTypedNumber(shownAfter ?? '')
  if (!typed.ok) {
    throw new Problem(400, 'invalid', 'Say what the device shows now.', {
      fields: { shownAfter: 'Type what the display shows now.' },
    })
  }
  const { value } = typed
  const { should, differs } = compareShownAfter(state, characteristic, value)
  if (should !== null && differs && !why) {
    const [is, right] = [shownQuantity(state, value), shownQuantity(state, should)]
    throw new Problem(
      409,
      'shows-otherwise',
      render(say`It shows ${is}; with these numbers it should show ${right}.`),
      {
        detail: 'Nothing was recorded as given.',
        hint: 'Look whether the numbers were saved on the device, and whether the sensor is still where it was. If it does show this, say why that stands.',
        fields: {
          shownAfter: render(say`It should show ${right} where the sensor was read last.`),
          why: 'Say why it stands.',
        },
      },
    )
  }
  return { value, unit: model.shownScale(setup.device).unit, should, ...(why ? { reason: why } : {}) }
}

/** What a device computes with after its own key was pressed in every cup; null where it refused, or nothing is known. */
export async function seenToCalibrate(
  links: Links,
  visit: OpenedVisit,
  filled: VisitEntry,
  now: number,
): Promise<GivenCalibration | null> {
  const { setup, procedure } = visit
  const after = withLines(visit, [...visit.lines, { at: now, operator: '', entry: filled }])
  const { evidence } = after.progress
  const forms = Object.values(evidence.forms)
  if (forms.some(({ values }) => values.said === 'bad')) return null
  const found = nullIfOutOfRange(() => procedure.judge(evidence, 'result'))?.found
  if (!found) return null
  // Over a line the device says itself what it computes with since.
  const held = await links
    .link(setup.position)
    ?.calibration?.read()
    .catch(() => null)
  const shown = filled.type === 'filled' ? filled.values.shown : null
  return {
    way: 'key',
    characteristic: held ? heldOf(held, found.characteristic) : found.characteristic,
    readBack: held ?? null,
    shownAfter:
      typeof shown === 'number'
        ? { value: shown, unit: evidence.model.shownScale(setup.device).unit, should: null }
        : null,
  }
}
