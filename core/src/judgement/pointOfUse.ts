import { type PhCalibration, phUncertaintyAt } from '../calibration/phCalibration.ts'
import { ISOTHERMAL_PH } from '../electrode/phElectrode.ts'
import { requireWithin } from '../quantities/outOfRange.ts'
import { Z95 } from '../statistics/normalDistribution.ts'
import { type Budget, type Contribution, resolutionInput } from '../uncertainty/propagation.ts'

/** What else, besides the calibration, makes a reading at the point of use uncertain; half-widths of 95 % intervals. */
export interface UseConditions {
  /** Quick scatter and repeatability of the reading, pH. */
  repeatability: number
  /** Last digit of the display, pH. */
  displayStep: number
  /** Of the temperature the device works with, degC. */
  temperatureUncertainty: number
  /** Drift that may have come since the calibration, pH. */
  driftSince: number
}

/**
 * Uncertainty of a pH read at the point of use: the calibration's own share there, repeatability, the last digit, the
 * temperature compensation's input, drift since (JCGM 100:2008; independent contributions in quadrature).
 * @param ph -1 to 15 @param temperature degC, -5 to 110
 * @example phReadingBudget({ zero: 0, slopeEfficiency: 1, zeroUncertainty: 0.5, slopeEfficiencyUncertainty: 0.005, covariance: 0 }, 8, 25, { repeatability: 0.01, displayStep: 0.01, temperatureUncertainty: 0.5, driftSince: 0.02 }).value // 8
 */
export function phReadingBudget(
  calibration: PhCalibration,
  ph: number,
  temperature: number,
  use: UseConditions,
): Budget {
  const iso = calibration.isothermalPh ?? ISOTHERMAL_PH
  for (const [name, value] of Object.entries(use)) requireWithin(`Condition "${name}"`, value, 0, 100)
  // pHiso - pH = (E - E0) / (eta k(T)): a wrong T scales the distance from pHiso.
  const perDegree = (iso - ph) / (temperature + 273.15)
  const part = (name: string, sd: number, sensitivity = 1): Contribution => ({
    name,
    sensitivity,
    sd: Math.abs(sensitivity) * sd,
  })
  const contributions = [
    part('Calibration', phUncertaintyAt(calibration, ph, temperature) / Z95),
    part('Repeatability', use.repeatability / Z95),
    part('Last digit', resolutionInput('Last digit', use.displayStep).sd),
    part('Temperature', use.temperatureUncertainty / Z95, perDegree),
    part('Drift since the calibration', use.driftSince / Z95),
  ]
  return {
    value: ph,
    uncertainty: Z95 * Math.sqrt(contributions.reduce((sum, c) => sum + c.sd ** 2, 0)),
    contributions,
  }
}
