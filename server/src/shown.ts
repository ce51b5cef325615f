import { modelOf, shownValue } from '@frustum/core'
import type { Installed } from './sensors.ts'

type Displayed = Pick<Installed, 'position' | 'device'>

/** The usual value of the water as this device shows it. */
export const processShown = ({ position, device }: Displayed): number =>
  shownValue(position.kind, position.processValue, position.processTemperature, device.setting) ?? position.processValue

/** An error in the unit of its kind, in the unit that is shown: of those that count in percent, of its usual value. */
export const shownError = (displayed: Displayed, error: number): number =>
  modelOf(displayed.position.kind).errorScale.unit === '%' ? (Math.abs(processShown(displayed)) * error) / 100 : error

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
