import type { Channel, SensorKind } from './channel.ts'
import { CONDUCTIVITY_CHANNEL } from './conductivity.ts'
import { ION_CHANNEL } from './ion.ts'
import { CHLORINE_CHANNEL, OPTICAL_NITRATE_CHANNEL, ORP_CHANNEL, TEMPERATURE_CHANNEL } from './linear.ts'
import { PH_CHANNEL } from './ph.ts'

export type {
  Channel,
  Characteristic,
  ConductivityDisplay,
  DeviceSetting,
  ParameterSpec,
  Scale,
  SensorKind,
} from './channel.ts'
export { differingNumbers, type NumberDifference } from './compareNumbers.ts'
export { conductivityBehindDisplay, conductivityOnDisplay } from './conductivity.ts'
export { ionElectrodeAt } from './ion.ts'
export { phCharacteristic } from './ph.ts'
export { settingWords } from './settingWords.ts'

const CHANNELS: Record<SensorKind, Channel> = {
  ph: PH_CHANNEL,
  orp: ORP_CHANNEL,
  conductivity: CONDUCTIVITY_CHANNEL,
  ion: ION_CHANNEL,
  chlorine: CHLORINE_CHANNEL,
  'nitrate-optical': OPTICAL_NITRATE_CHANNEL,
  temperature: TEMPERATURE_CHANNEL,
}

export const SENSOR_KINDS = Object.keys(CHANNELS) as SensorKind[]

/** What is to be known of sensors of a kind. */
export const channelOf = (kind: SensorKind): Channel => CHANNELS[kind]
