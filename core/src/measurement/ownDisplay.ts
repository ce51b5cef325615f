import type { DeviceSetting, MeasurementModel, OwnDisplay } from './measurementModel.ts'

/**
 * A model that follows what is noted of a device: its digits, what it can show, and a temperature that is set by hand,
 * with which it computes whatever the water has.
 * @param kind of the model, under which a device has its display
 */
export function followingDevice(kind: string, model: MeasurementModel): MeasurementModel {
  const own = ({ displays }: DeviceSetting): OwnDisplay => displays?.[kind] ?? {}
  return {
    ...model,
    shownScale: (device) => {
      const scale = model.shownScale(device)
      return { ...scale, decimals: own(device).decimals ?? scale.decimals }
    },
    shownRange: (device) => {
      const { low, high } = model.shownRange(device)
      const { low: least = low, high: most = high } = own(device)
      return { low: Math.max(low, least), high: Math.min(high, most) }
    },
    toShown: (signal, temperature, activeCalibration, device) =>
      model.toShown(signal, device.fixedTemperature ?? temperature, activeCalibration, device),
    fromShown: (shown, temperature, activeCalibration, device) =>
      model.fromShown(shown, device.fixedTemperature ?? temperature, activeCalibration, device),
    errorAt: (actual, activeCalibration, process, device) => {
      if (device.fixedTemperature === undefined) return model.errorAt(actual, activeCalibration, process, device)
      const { value, temperature } = process
      const signal = model.signalOf(value, temperature, actual, device)
      const shown = model.toShown(signal, device.fixedTemperature, activeCalibration, device)
      // What a device that knew the temperature would have to be given to show the same.
      const same = model.fromShown(shown, temperature, activeCalibration, device)
      return model.errorOf(model.valueOf(same, temperature, activeCalibration, device), value)
    },
  }
}

/**
 * The current of an output for a displayed value, mA; null where no span is noted.
 * @param shown in the unit of the display
 * @returns 3.8 to 20.5, beyond which an output says that it is at its end (NAMUR NE 43)
 * @example outputCurrent(7, { at4: 0, at20: 14 }) // 12
 */
export function outputCurrent(shown: number, { at4, at20 }: OwnDisplay): number | null {
  if (at4 === undefined || at20 === undefined || at4 === at20) return null
  return Math.min(20.5, Math.max(3.8, 4 + (16 * (shown - at4)) / (at20 - at4)))
}
