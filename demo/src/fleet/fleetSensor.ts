import { type CheckFirst, type DeviceSetting, type SensorKind, WATER_CAUTIONS } from '@frustum/core'
import type { SensorTruth } from '@frustum/lab/simulation'
import type { OtherDevice } from '../otherDevices.ts'

type PlaceKey = 'cuttlefish' | 'wasabi' | 'plant'

interface FleetEvent {
  daysAgo: number
  kind: 'upset' | 'refilled' | 'note'
  note: string
}

/** One invented sensor of the station, with its whole story. */
export interface FleetSensor {
  code: string
  place: PlaceKey
  spot: string
  kind: SensorKind
  serial: string
  model: string
  /** Modbus unit on the stand-in, or null: typed readings only. */
  unit: number | null
  /** The device by which it is read, where that is none of the station's transmitters. */
  via?: OtherDevice
  shows: 'signal' | 'value'
  /** Whether the calibration can be written over the link. */
  writable: boolean
  /** What its key is called where it calibrates itself; it takes numbers otherwise. */
  ownKey?: string
  /** Whether its transmitter measures the resistances of glass and junction. */
  reportsResistances?: boolean
  device: DeviceSetting
  /** In the core unit of the kind; half the daily swing. */
  process: { value: number; temperature: number; swing: number }
  /** In the unit of the kind's errors. */
  tolerance: number
  ceilingDays: number
  authority?: { days: number; rule: string }
  /** Multi-sensor body on a shared reference. */
  body?: string
  /** Sensors in the same water. */
  water?: string
  installedDaysAgo: number
  visitEveryDays: number
  lastVisitDaysAgo: number
  /** How it is usually calibrated, and how checked; the same where it is never more than checked. */
  procedure: string
  check: string
  /** Whether a visit begins with a check; when it is sound unless said. */
  checkFirst?: CheckFirst
  standards: Readonly<Record<string, string>>
  cautions: readonly string[]
  events: readonly FleetEvent[]
  /** What the sensor is like, `day` days from today (negative: past). */
  truth: (day: number) => SensorTruth
}

/** What is said before each visit, by the water. */
export const CAUTIONS = WATER_CAUTIONS

export const since = (day: number, start: number) => Math.max(0, day - start)

/** Days since the last of the cleanings that come every so often. */
export const sinceCleaned = (day: number, every: number, lastDaysAgo: number) =>
  (((day + lastDaysAgo) % every) + every) % every || every
