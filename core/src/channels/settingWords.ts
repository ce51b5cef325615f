import { IONS } from '../chemistry/ions.ts'
import { REFERENCE_ELECTRODES } from '../electrode/referenceElectrodes.ts'
import type { DeviceSetting, SensorKind } from '../measurement/measurementModel.ts'

/** How a device is set, in a line that can be compared with its own menu. */
export function settingWords(kind: SensorKind, device: DeviceSetting): string {
  switch (kind) {
    case 'conductivity': {
      const c = device.compensation ?? { law: 'none' }
      const law =
        c.law === 'linear'
          ? `${c.alpha} % per °C to ${c.reference} °C`
          : c.law === 'none'
            ? 'not compensated'
            : c.law === 'seawater'
              ? 'seawater compensation'
              : c.law === 'natural-water'
                ? 'natural water compensation'
                : 'high-purity compensation'
      return `shows ${device.display ?? 'µS/cm'}, ${law}${device.factoryCell ? ', factory-calibrated cell' : ''}`
    }
    case 'orp':
      return REFERENCE_ELECTRODES.find((r) => r.code === device.reference)?.label ?? 'reference electrode not noted'
    case 'ion':
      return `${IONS[device.ion ?? 'chloride'].label.toLowerCase()}, reckons in ${device.expects ?? 'activity'}`
    default:
      return ''
  }
}
