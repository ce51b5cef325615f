import {
  CHLORINE_CHANNEL,
  OPTICAL_NITRATE_CHANNEL,
  ORP_CHANNEL,
  TEMPERATURE_CHANNEL,
} from '../measurement/linearModel.ts'
import type { MeasurementModel, SensorKind } from '../measurement/measurementModel.ts'
import { CONDUCTIVITY_CHANNEL } from './conductivity/model.ts'
import { ION_CHANNEL } from './ion/model.ts'
import { PH_CHANNEL } from './ph/model.ts'

export { settingWords } from '../channels/settingWords.ts'
export { differingNumbers, type NumberDifference } from '../measurement/differingParameters.ts'
export type {
  CalibrationParameters,
  ConductivityDisplay,
  DeviceSetting,
  MeasurementModel,
  ParameterSpec,
  Scale,
  SensorKind,
} from '../measurement/measurementModel.ts'
export { conductivityBehindDisplay, conductivityOnDisplay } from './conductivity/model.ts'
export { ionElectrodeAt } from './ion/model.ts'
export { phCharacteristic } from './ph/model.ts'

const CHANNELS: Record<SensorKind, MeasurementModel> = {
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
export const modelOf = (kind: SensorKind): MeasurementModel => CHANNELS[kind]
