import type { LotFacts } from '../calibration/finding.ts'
import type { Diagnosed } from '../health/diagnosed.ts'
import type { CalibrationParameters, DeviceSetting } from '../measurement/measurementModel.ts'
import type { OwnStandard } from '../measurement/ownStandards.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import type { Water } from '../measurement/waters.ts'
import type { PhTable } from '../standards/phBuffers.ts'
import type { WorkingPractices } from './workingPractices.ts'

/** The standard chosen for one role of a procedure ("first", "second" ...), with the lot it is poured from. */
export interface ChosenStandard {
  code: string
  lotTable?: PhTable | undefined
  lot: LotFacts | null
  /** What it is, where it is one of a site's own: a record is read by it wherever it comes to be read. */
  own?: OwnStandard
}

/** Another sensor in the same water. */
export interface Twin {
  position: string
  /** As shown when the visit began, on the scale of this device. */
  value: number
  uncertainty: number
  /** How likely it is out of its own tolerance by its own drift, 0 to 1; missing where unknown. */
  outside?: number
}

/** All that a procedure knows before anything is read: the position, its device, and the choices made at the start. */
export interface Setup {
  kind: SensorKind
  position: string
  /** Core unit of the kind: pH, mV, uS/cm there, mg/L, degC. */
  processValue: number
  processTemperature: number
  /** In the unit of the kind's errors. */
  tolerance: number
  /** What kind of water it stands in; missing where nobody said. */
  waterKind?: Water | null
  device: DeviceSetting
  /** Whether the device lets its signal be seen, or only the finished value. */
  shows: 'signal' | 'value'
  linked: boolean
  /** What comes over the line: the value that the device makes, its bare signal, or both; missing: both. */
  gives?: 'value' | 'signal' | 'both'
  /** Whether the numbers that the device computes with can be read over the line; missing: where it has one. */
  readsBack?: boolean
  /** Whether its outputs can be held over the line; missing: they cannot. */
  holds?: boolean
  writable: boolean
  /** How the device is calibrated: by numbers that it is given, by a key of its own that does the arithmetic, or not at all. */
  adjustsBy: 'numbers' | 'key' | 'nothing'
  /** What that key is called on the device. */
  calibrationKey: string
  /** What such a device shows meanwhile: its value, or a word or a bare count. Missing: its value. */
  whileCalibrating?: 'value' | 'word'
  activeCalibration: CalibrationParameters
  /**
   * Parameters of the device's calibration that nobody knows: `activeCalibration` has an ideal sensor's in their place.
   * Missing: all are known.
   */
  unknownParameters?: readonly string[]
  /** What the sensor was last found to be. */
  previous: { characteristic: CalibrationParameters; at: number } | null
  standards: Readonly<Record<string, ChosenStandard>>
  practices: WorkingPractices
  /** Seconds that this sensor took to settle at its last visits. */
  settlingHistory: readonly number[]
  /** Rule of the permit or the authority for this position; it outranks what is proposed. */
  authorityRule: string | null
  /** What its own record points to; missing in records of before it was noted. */
  diagnosed?: Diagnosed | null
  /** Other sensors in the same water, as they read when the visit began. */
  twins: readonly Twin[]
  /** How likely the device is out of its tolerance by its own drift as the visit begins, 0 to 1; missing where unknown. */
  outside?: number
  /** Set where the site's rule is to calibrate at each visit, whatever is found. */
  routine?: true
}

/** Whether the signal itself is seen, over the line or on the display, and not the finished value alone. */
export const seesSignal = ({ linked, gives, shows }: Pick<Setup, 'linked' | 'gives' | 'shows'>): boolean =>
  linked ? gives !== 'value' : shows === 'signal'

/** Whether a device says over its line which numbers it computes with. */
export const readsBack = ({ linked, readsBack: said }: Pick<Setup, 'linked' | 'readsBack'>): boolean => said ?? linked
