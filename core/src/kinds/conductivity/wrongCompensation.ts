import type { Finding } from '../../calibration/finding.ts'
import type { Compensation } from '../../conductivity/compensation.ts'
import type { DeviceSetting } from '../../measurement/measurementModel.ts'
import { OutOfRange } from '../../quantities/outOfRange.ts'
import { celsius, exactly, quantity, type Sentence, say } from '../../quantities/sentence.ts'
import { CONDUCTIVITY_MODEL, conductivityOnDisplay } from './model.ts'

const CANDIDATES: readonly { compensation: Compensation; words: Sentence }[] = [
  { compensation: { law: 'none' }, words: 'no compensation' },
  linear(1.9, 25),
  linear(2, 25),
  linear(2.2, 25),
  linear(2, 20),
  { compensation: { law: 'natural-water' }, words: 'that of natural water' },
  { compensation: { law: 'seawater' }, words: 'that of seawater' },
]

function linear(alpha: number, reference: number): { compensation: Compensation; words: Sentence } {
  return {
    compensation: { law: 'linear', alpha, reference },
    words: say`${exactly(alpha, '%')} per °C to ${celsius(reference, 0)}`,
  }
}

/** Within this share of what is expected nothing is wrong with the setting. */
const FITS = 0.02
/** A candidate explains a reading when it is this near. */
const EXPLAINS = 0.007

/**
 * Whether a device compensates otherwise than is noted of it: its display in a known conductivity fits another setting.
 * @param shown in the device's own unit @param conductivity uS/cm as it is at `temperature`
 * @returns null when it fits, or when no other setting explains it
 */
export function findWrongCompensation(
  shown: number,
  conductivity: number,
  temperature: number,
  device: DeviceSetting,
): Finding | null {
  const display = (compensation: Compensation) => {
    try {
      return conductivityOnDisplay(conductivity, device.fixedTemperature ?? temperature, { ...device, compensation })
    } catch (error) {
      if (error instanceof OutOfRange) return Number.NaN
      throw error
    }
  }
  const expected = display(device.compensation ?? { law: 'none' })
  const off = (value: number) => Math.abs(shown / value - 1)
  if (!(off(expected) > FITS)) return null
  const found = CANDIDATES.map((c) => ({ ...c, miss: off(display(c.compensation)) }))
    .filter((c) => c.miss < EXPLAINS)
    .sort((a, b) => a.miss - b.miss)[0]
  if (!found) return null
  const { unit, decimals } = CONDUCTIVITY_MODEL.shownScale(device)
  const onDisplay = (value: number) => quantity(value, unit, decimals)
  return {
    code: 'wrong-compensation',
    severity: 'stop',
    sentence: say`The device shows ${onDisplay(shown)} where its setting as noted gives ${onDisplay(expected)}; it fits ${found.words}.`,
    advice: 'Set its compensation as noted before anything is adjusted, or correct the note. The cell is not at fault.',
    numbers: { shown, expected, temperature },
  }
}
