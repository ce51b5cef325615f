import { ZERO_CELSIUS } from '../quantities/constants.ts'
import { requireWithin } from '../quantities/outOfRange.ts'

/**
 * degC as degF. @throws OutOfRange below absolute zero
 * @example toFahrenheit(25) // 77
 */
export function toFahrenheit(celsius: number): number {
  return requireWithin('Temperature', celsius, -ZERO_CELSIUS, 1e4, '°C') * 1.8 + 32
}

/**
 * degF as degC. @throws OutOfRange below absolute zero
 * @example fromFahrenheit(77) // 25
 */
export function fromFahrenheit(fahrenheit: number): number {
  return (requireWithin('Temperature', fahrenheit, -459.67, 2e4, '°F') - 32) / 1.8
}
