import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * Acid constant of hypochlorous acid in fresh water, pKa = 3000/T - 10.0686 + 0.0253 T.
 * J. C. Morris, J. Phys. Chem. 70 (1966) 3798.
 * @param temperature degC, 0 to 40
 * @throws OutOfRange
 * @example hypochlorousPka(25) // 7.5366
 */
export function hypochlorousPka(temperature: number): number {
  const t = requireWithin('Temperature', temperature, 0, 40, '°C') + ZERO_CELSIUS
  return 3000 / t - 10.0686 + 0.0253 * t
}

/**
 * Share of free chlorine that is hypochlorous acid, 0 to 1; the rest is hypochlorite.
 * @param ph 0 to 14 @param temperature degC, 0 to 40
 * @throws OutOfRange
 * @example hypochlorousShare(7.5366, 25) // 0.5
 */
export const hypochlorousShare = (ph: number, temperature: number): number =>
  1 / (1 + 10 ** (requireWithin('pH', ph, 0, 14) - hypochlorousPka(temperature)))
