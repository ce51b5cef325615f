import type { ConductivityCalibration, ConductivityPoint } from '../../calibration/conductivityCalibration.ts'
import type { Finding } from '../../calibration/finding.ts'
import { figures, quantity, say } from '../../quantities/sentence.ts'

/** A cell factor beyond these is dirt, a wrong cell constant or a wrong standard, 1 (common practice, no source). */
const CELL_FACTOR_RULE = { low: 0.8, high: 1.25 }
/** A dry cell shows less than this share of its standard (common practice, no source). */
const DRY_SHARE = 0.005

/** What a conductivity calibration says of itself: a cell that was not dry, a factor beyond belief. */
export function findingsOfConductivity(result: ConductivityCalibration, point: ConductivityPoint): Finding[] {
  const found: Finding[] = []
  const { factor, zero } = result
  if (result.school === 'dry-zero' && Math.abs(zero.value) > DRY_SHARE * point.shown) {
    found.push({
      code: 'cell-not-dry',
      severity: 'warn',
      sentence: say`In dry air the cell shows ${quantity(zero.value, 'µS/cm', figures(zero.value, 3))}.`,
      advice: 'Blow it out, let it dry for up to two hours, and take the zero again.',
      numbers: { zero: zero.value },
    })
  }
  if (factor.value < CELL_FACTOR_RULE.low || factor.value > CELL_FACTOR_RULE.high) {
    const low = factor.value > 1
    found.push({
      code: 'factor-beyond',
      severity: 'warn',
      sentence: say`The cell reads ${quantity(100 / factor.value, '%', 1)} of what is right.`,
      advice: low
        ? 'Low: clean the cell again, tap the bubbles off, and retest in fresh solution before you adjust.'
        : 'High: rinse again, look for a bridge between the electrodes, and check the cell constant keyed in.',
      numbers: { factor: factor.value },
    })
  }
  return found
}
