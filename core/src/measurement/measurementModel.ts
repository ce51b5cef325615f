import type { IonCode } from '../chemistry/ions.ts'
import type { Compensation } from '../conductivity/compensation.ts'

import type { ReferenceCode } from '../electrode/referenceElectrodes.ts'
import type { EcScale } from '../quantities/ecScales.ts'
import type { StabilityPreset } from '../stability/presets.ts'
import type { PhTable } from '../standards/phBuffers.ts'

/**
 * The calibration held by a device, or what a sensor was found to be: named numbers, the same for both.
 * pH: zero mV, slopeEfficiency 1. ORP, chlorine, optical nitrate: right = gain x signal + offset. Temperature: offset.
 * Conductivity: right = factor x (signal - zero), uS/cm. Ion: zero (E0) mV and slopeEfficiency, with `temperature`,
 * and where there is a second level of temperature zero2, slopeEfficiency2, temperature2.
 */
export type CalibrationParameters = Readonly<Record<string, number>>

export type ConductivityDisplay = EcScale | 'salinity' | 'specific gravity' | 'MΩ·cm'

/** What the display and the output of one device do with one kind that it reads; what is not said is as usual. */
export interface OwnDisplay {
  /** Digits after the point, 0 to 4. */
  decimals?: number
  /** What it can show, in its own unit. */
  low?: number
  high?: number
  /** What 4 mA and 20 mA of its output stand for, in the unit of the display. */
  at4?: number
  at20?: number
}

/** How a device turns what it measures into what it shows. */
export interface DeviceSetting {
  /** Conductivity. */
  compensation?: Compensation
  display?: ConductivityDisplay
  /** A factory-calibrated cell: tested, never adjusted. */
  factoryCell?: boolean
  /** ORP: the reference electrode in the sensor. */
  reference?: ReferenceCode
  /** Ion electrodes. */
  ion?: IonCode
  /** Whether the device computes in activity or in concentration; activity unless said. */
  expects?: 'activity' | 'concentration'
  /** Where the temperature is set by hand: what the device computes with, degC. */
  fixedTemperature?: number
  /** What it does with each kind that it reads, by the name of the kind. */
  displays?: Readonly<Record<string, OwnDisplay>>
}

/** One number of a characteristic, as it is keyed in and shown. */
export interface ParameterSpec {
  key: string
  label: string
  unit: string
  decimals: number
  /** Shown = stored x scale. */
  scale: number
  /** What may be keyed in, as shown. */
  low: number
  high: number
  /** Where it is a condition of the others and not a figure of the sensor: the temperature of a level. */
  condition?: boolean
  /** Of a second level of temperature. */
  secondLevel?: boolean
  /** Over its trend, where that is not the label. */
  trendTitle?: string
  /** Where a sound sensor lies, as shown, and from where on which word holds. */
  sound?: readonly [number, number]
  limits?: readonly { value: number; word: string }[]
}

/** A number as it stands on a screen. */
export interface Scale {
  unit: string
  decimals: number
  /** Shown = core unit x factor. */
  factor: number
}

/** How one kind of sensor turns a quantity into a signal and a display, and in which scale its errors count. */
export interface MeasurementModel {
  /** What is measured: "pH", "Salinity" ... */
  quantity(device: DeviceSetting): string
  ideal: CalibrationParameters
  parameters: readonly ParameterSpec[]
  /** The signal as it is shown at a level of it: mV, mS/cm ... */
  signalScale(level: number): Scale
  /** Unit of the signal in files. */
  signalUnit: string
  /** Unit in which values are stored: pH, uS/cm there, mV, mg/L, degC. */
  coreUnit: string
  /** What the device shows. */
  shownScale(device: DeviceSetting): Scale
  /** What a displayed value may be, in the device's own unit. */
  shownRange(device: DeviceSetting): { low: number; high: number }
  /** Displayed value, in the device's own unit. @throws OutOfRange */
  toShown(signal: number, temperature: number, activeCalibration: CalibrationParameters, device: DeviceSetting): number
  /** The signal behind a displayed value. @throws OutOfRange */
  fromShown(shown: number, temperature: number, activeCalibration: CalibrationParameters, device: DeviceSetting): number
  /** Signal that a sensor of this characteristic gives for a value in core units (pH, uS/cm there, mV, mg/L, degC). */
  signalOf(value: number, temperature: number, actual: CalibrationParameters, device: DeviceSetting): number
  /** The value behind a signal, the inverse of signalOf. */
  valueOf(signal: number, temperature: number, actual: CalibrationParameters, device: DeviceSetting): number
  /** Value of a standard for this device at a temperature, in core units. */
  standardValue(code: string, temperature: number, device: DeviceSetting, lotTable?: PhTable): number
  /** Unit and decimals of errors and tolerances. */
  errorScale: Scale
  /** Displayed minus right at the process value, in the unit of errors. */
  errorAt(
    actual: CalibrationParameters,
    activeCalibration: CalibrationParameters,
    process: { value: number; temperature: number },
    device: DeviceSetting,
  ): number
  /** Error of a displayed value where `right` is right, in the unit of errors; both in core units. */
  errorOf(value: number, right: number): number
  /** What counts as settled when the signal, or the displayed value, is at about this level. */
  preset(level: number, judged: 'signal' | 'shown', device: DeviceSetting): StabilityPreset
  /** How far two values are apart in the metric of this kind, and from where on a cup is the wrong one. */
  distance(a: number, b: number): number
  wrongCup: { miss: number; near: number }
  /** A signal that moved by this much, in units of `distance` between values, was put somewhere else. */
  moved: number
  /** What is assumed of its drift before anything is known: per day, and variance per day, in the unit of errors. */
  usualDrift: { rateSd: number; walk: number }
}
