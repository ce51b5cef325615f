import { modelOf, shownValue } from '@frustum/core'
import type { Installed } from './sensors.ts'

type Displayed = Pick<Installed, 'position' | 'device'>

/** The usual value of the water as this device shows it. */
export const processShown = ({ position, device }: Displayed): number =>
  shownValue(position.kind, position.processValue, position.processTemperature, device.setting) ?? position.processValue

/**
 * An error in the unit of its kind, in the unit that is shown: of those that count in percent, of its usual value. A
 * specific gravity moves by far less than the conductivity behind it.
 */
export function shownError(displayed: Displayed, error: number): number {
  const { position, device } = displayed
  if (modelOf(position.kind).errorScale.unit !== '%') return error
  const off = position.processValue * (1 + error / 100)
  const shown = shownValue(position.kind, off, position.processTemperature, device.setting)
  return shown === null ? 0 : Math.abs(shown - processShown(displayed)) * Math.sign(error)
}

/** Whether two sensors are of one kind, in the same water, and show the same unit: then they should read the same. */
export function areTwins(a: Displayed, b: Displayed): boolean {
  const unit = ({ position, device }: Displayed) => modelOf(position.kind).shownScale(device.setting).unit
  const { id, water, kind } = a.position
  return (
    water !== null &&
    water !== '' &&
    id !== b.position.id &&
    water === b.position.water &&
    kind === b.position.kind &&
    unit(a) === unit(b)
  )
}
