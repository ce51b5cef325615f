import type { Finding } from '../../calibration/finding.ts'
import type { OrpCalibration } from '../../calibration/orpCalibration.ts'
import { millivolts, quantity, say } from '../../quantities/sentence.ts'
import { ORP_GAIN_RULE, ORP_OFFSET_RULE } from './limits.ts'

/** What an ORP calibration says of itself. */
export function findingsOfOrp({ gain, offset, school }: OrpCalibration): Finding[] {
  const found: Finding[] = []
  const size = Math.abs(offset.value)
  if (size > ORP_OFFSET_RULE) {
    const gone = size > 2 * ORP_OFFSET_RULE
    found.push({
      code: 'zero-beyond',
      severity: gone ? 'stop' : 'warn',
      sentence: say`The offset is ${millivolts(offset.value)}.`,
      advice: gone
        ? 'Do not adjust it away: polish the metal, renew the standard, and replace the sensor if it stays.'
        : 'Suspect the reference: clean the junction and the metal, and repeat in fresh standard.',
      numbers: { offset: offset.value },
    })
  }
  if (school !== 'offset' && Math.abs(gain.value - 1) > ORP_GAIN_RULE) {
    found.push({
      code: gain.value > 1 ? 'slope-low' : 'slope-high',
      severity: 'warn',
      sentence: say`The channel shows ${quantity(100 / gain.value, '%', 1)} of the step it should.`,
      advice: 'Metal does not lose slope: check the standard first, then the electronics with a simulator.',
      numbers: { gain: gain.value },
    })
  }
  return found
}
