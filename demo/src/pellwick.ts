import type { Bath, SensorTruth } from '@frustum/lab/simulation'
import { BOILER_AND_RINSE_PLANT } from './fleet/boilerAndRinsePlant.ts'
import { CUTTLEFISH_HALL } from './fleet/cuttlefishHall.ts'
import type { FleetSensor } from './fleet/fleetSensor.ts'
import { WASABI_HOUSE } from './fleet/wasabiHouse.ts'

export type { FleetSensor } from './fleet/fleetSensor.ts'

/** Pellwick Shore Station: an invented place. Every name and number here is made up. */
export const SITE = { name: 'Pellwick Shore Station', timeZone: 'Europe/London' }

export const OPERATORS = ['I. Marrow', 'T. Quillan', 'S. Osk']

export const PLACES = [
  { key: 'cuttlefish', name: 'Cuttlefish Hall', water: 'seawater' },
  { key: 'wasabi', name: 'Wasabi House', water: 'nutrient solution' },
  { key: 'plant', name: 'Boiler and Rinse Plant', water: 'process water' },
] as const

/** What has a date of its own. */
export const CONSUMABLES = [
  { place: 'cuttlefish', name: 'UV lamp of the quarantine loop', everyDays: 270, renewedDaysAgo: 262 },
  { place: 'cuttlefish', name: 'Carbon filter, nursery', everyDays: 42, renewedDaysAgo: 20 },
  { place: 'wasabi', name: 'Storage solution in the caps', everyDays: 180, renewedDaysAgo: 171 },
  { place: 'plant', name: 'Sanitise the rinse-water loop', everyDays: 28, renewedDaysAgo: 25 },
  { place: 'plant', name: 'Ion-exchange pack', everyDays: 120, renewedDaysAgo: 64 },
] as const

const SENSORS = [...CUTTLEFISH_HALL, ...WASABI_HOUSE, ...BOILER_AND_RINSE_PLANT]

/** The sensors of the station. */
export function fleet(): readonly FleetSensor[] {
  return SENSORS
}

/** What a sensor is like `day` days from today. */
export const truthAt = (sensor: FleetSensor, day: number): SensorTruth => sensor.truth(day)

/** The water at a sensor at an instant (epoch ms): a daily swing that peaks in the afternoon, and slow weather. */
export function processAt(sensor: FleetSensor, at: number): Bath {
  const day = at / 86_400_000
  const hour = (day % 1) * 2 * Math.PI
  // Twins in one tank see the same water: phase by tank, not by sensor.
  const phase = sensor.spot.split(',')[0]?.length ?? 0
  const { value, temperature, swing } = sensor.process
  const there = value + swing * Math.sin(hour - 1.9) + 0.25 * swing * Math.sin(day / 3.1 + phase)
  const degrees = sensor.kind === 'temperature' ? there : temperature + 0.4 * Math.sin(hour - 2.4)
  return { value: there, temperature: degrees }
}

/** What the station's messages to its own log are signed with. */
export const POST_KEY = 'pellwick-station-log'
