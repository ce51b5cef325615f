import type { ElectrodeTruth, SolutionTruth } from '@frustum/core'

/** Pellwick Shore Station: an invented place. Every name and number here is made up. */
export const SITE = { name: 'Pellwick Shore Station', timeZone: 'Europe/London' }

export const OPERATORS = ['I. Marrow', 'T. Quillan', 'S. Osk']

export const PLACES = [
  { key: 'cuttlefish', name: 'Cuttlefish Hall', water: 'seawater' },
  { key: 'wasabi', name: 'Wasabi House', water: 'nutrient solution' },
  { key: 'plant', name: 'Boiler and Rinse Plant', water: 'process water' },
] as const

export interface FleetSensor {
  code: string
  place: (typeof PLACES)[number]['key']
  spot: string
  serial: string
  model: string
  /** Modbus unit on the stand-in, or null: typed readings only. */
  unit: number | null
  shows: 'millivolt' | 'value'
  /** Whether slope and zero can be written over the link. */
  writable: boolean
  processPh: number
  processTemperature: number
  /** Half the daily swing, pH. */
  swing: number
  tolerance: number
  ceilingDays: number
  installedDaysAgo: number
  visitEveryDays: number
  lastVisitDaysAgo: number
  cautions: readonly string[]
  events: { daysAgo: number; kind: 'upset' | 'refilled' | 'note'; note: string }[]
  /** What its electrode is like, `day` days from today (negative: past). */
  story: (day: number) => Partial<ElectrodeTruth>
}

const LIVESTOCK = 'Livestock depend on this water. Put dosing on hold before the probe leaves it.'
const CROP = 'The doser follows this probe. Put it on hold, or it will doctor the buffer and then the crop.'
const PRESSURE = 'Pressurised hot line. Isolate and relieve it first; lock out where the site asks for it.'

const SOUND: ElectrodeTruth = {
  zero: 0,
  slopeEfficiency: 0.985,
  fastTime: 2.2,
  slowShare: 0.025,
  slowTime: 14,
  noise: 0.08,
  step: 0.1,
  coating: 0,
}

const since = (day: number, start: number) => Math.max(0, day - start)

const seawater = {
  place: 'cuttlefish',
  processTemperature: 24.6,
  swing: 0.12,
  tolerance: 0.1,
  cautions: [LIVESTOCK],
} as const
const nutrient = { place: 'wasabi', processTemperature: 19.2, swing: 0.05, tolerance: 0.15, cautions: [CROP] } as const
const plant = { place: 'plant', swing: 0.03, tolerance: 0.15, cautions: [PRESSURE] } as const

const SENSORS: FleetSensor[] = [
  {
    ...seawater,
    code: 'CH-pH-1',
    spot: 'loop A',
    serial: '0388',
    model: 'Glass pH, gel',
    unit: 1,
    shows: 'millivolt',
    writable: true,
    processPh: 8.14,
    ceilingDays: 90,
    installedDaysAgo: 560,
    visitEveryDays: 46,
    lastVisitDaysAgo: 24,
    events: [],
    story: (day) => ({ zero: -3.2 + 0.012 * (day + 560), slopeEfficiency: 0.985 - 0.00002 * (day + 560) }),
  },
  {
    ...seawater,
    code: 'CH-pH-2',
    spot: 'nursery',
    serial: '0417',
    model: 'Glass pH, gel',
    unit: 2,
    shows: 'millivolt',
    writable: true,
    processPh: 8.2,
    ceilingDays: 90,
    installedDaysAgo: 560,
    visitEveryDays: 31,
    lastVisitDaysAgo: 45,
    events: [{ daysAgo: 118, kind: 'upset', note: 'Sulfide from a stuck filter ran through the nursery for a night.' }],
    story: (day) => ({
      zero: 4 - 0.004 * (day + 560) - 0.24 * since(day, -118),
      slopeEfficiency: 0.978 - 0.00003 * (day + 560),
      slowShare: 0.03 + 0.0003 * since(day, -118),
    }),
  },
  {
    ...seawater,
    code: 'CH-pH-3',
    spot: 'loop B',
    serial: '0391',
    model: 'Glass pH, gel',
    unit: 3,
    shows: 'millivolt',
    writable: true,
    processPh: 8.11,
    ceilingDays: 60,
    installedDaysAgo: 548,
    visitEveryDays: 9,
    lastVisitDaysAgo: 7,
    events: [],
    story: (day) => ({ zero: 1.5 + 0.003 * (day + 548), slopeEfficiency: 0.991 }),
  },
  {
    ...seawater,
    code: 'CH-pH-4',
    spot: 'quarantine',
    serial: '0240',
    model: 'Glass pH, gel',
    unit: null,
    shows: 'value',
    writable: false,
    processPh: 8.05,
    ceilingDays: 60,
    installedDaysAgo: 552,
    visitEveryDays: 48,
    lastVisitDaysAgo: 61,
    events: [],
    story: (day) => ({ zero: -6 + 0.03 * (day + 552), slopeEfficiency: 0.97 - 0.00004 * (day + 552) }),
  },
  {
    ...seawater,
    code: 'CH-pH-5',
    spot: 'nursery, twin',
    serial: '0466',
    model: 'Glass pH, gel',
    unit: 4,
    shows: 'millivolt',
    writable: true,
    processPh: 8.2,
    ceilingDays: 90,
    installedDaysAgo: 550,
    visitEveryDays: 44,
    lastVisitDaysAgo: 13,
    events: [],
    story: (day) => ({ zero: 2.2 - 0.008 * (day + 550), slopeEfficiency: 0.988 }),
  },
  {
    ...nutrient,
    code: 'WH-pH-1',
    spot: 'stream bed 1',
    serial: '1102',
    model: 'Glass pH, refillable',
    unit: 5,
    shows: 'millivolt',
    writable: false,
    processPh: 6.02,
    ceilingDays: 60,
    installedDaysAgo: 555,
    visitEveryDays: 40,
    lastVisitDaysAgo: 18,
    events: [],
    story: (day) => ({ zero: -1 + 0.02 * (day + 555), slopeEfficiency: 0.982 }),
  },
  {
    ...nutrient,
    code: 'WH-pH-2',
    spot: 'stream bed 2',
    serial: '1103',
    model: 'Glass pH, refillable',
    unit: 6,
    shows: 'millivolt',
    writable: false,
    processPh: 5.9,
    ceilingDays: 45,
    installedDaysAgo: 555,
    visitEveryDays: 30,
    lastVisitDaysAgo: 21,
    events: [],
    // A layer grows from one cleaning to the next.
    story: (day) => ({
      zero: 3 + 0.006 * (day + 555),
      slopeEfficiency: 0.98,
      coating: 0.14 * ((((day + 21) % 30) + 30) % 30 || 30),
      slowShare: 0.05,
      slowTime: 18,
    }),
  },
  {
    ...nutrient,
    code: 'WH-pH-3',
    spot: 'stream bed 3',
    serial: '1104',
    model: 'Glass pH, refillable',
    unit: 7,
    shows: 'millivolt',
    writable: false,
    processPh: 6.1,
    ceilingDays: 45,
    installedDaysAgo: 555,
    visitEveryDays: 34,
    lastVisitDaysAgo: 43,
    events: [{ daysAgo: 410, kind: 'refilled', note: 'Electrolyte topped up.' }],
    story: (day) => ({ zero: 2 + 0.00011 * since(day, -400) ** 2, slopeEfficiency: 0.979, noise: 0.12 }),
  },
  {
    ...nutrient,
    code: 'WH-pH-4',
    spot: 'mixing tank',
    serial: '0977',
    model: 'Glass pH, refillable',
    unit: 8,
    shows: 'millivolt',
    writable: false,
    processPh: 5.8,
    ceilingDays: 45,
    installedDaysAgo: 558,
    visitEveryDays: 36,
    lastVisitDaysAgo: 27,
    events: [],
    story: (day) => ({
      zero: -4,
      slopeEfficiency: 0.972 - 0.00018 * (day + 558),
      fastTime: 2.5 + 0.005 * (day + 558),
      slowShare: 0.03 + 0.00008 * (day + 558),
      slowTime: 16 + 0.03 * (day + 558),
    }),
  },
  {
    ...plant,
    code: 'BR-pH-1',
    spot: 'boiler feedwater',
    serial: '7731',
    model: 'Glass pH, flowing junction',
    unit: 9,
    shows: 'millivolt',
    writable: true,
    processPh: 9.2,
    processTemperature: 28,
    ceilingDays: 60,
    installedDaysAgo: 549,
    visitEveryDays: 30,
    lastVisitDaysAgo: 16,
    events: [],
    story: (day) => ({
      zero: -5 - 0.03 * since(day, -260) - 3 * Math.sin(day / 17) * Math.min(1, since(day, -260) / 200),
      slopeEfficiency: 0.98,
      slowShare: 0.03 + 0.00018 * since(day, -260),
      slowTime: 15 + 0.06 * since(day, -260),
      noise: 0.1 + 0.0008 * since(day, -260),
    }),
  },
  {
    ...plant,
    code: 'BR-pH-2',
    spot: 'cooling water',
    serial: '7745',
    model: 'Glass pH, gel',
    unit: 10,
    shows: 'millivolt',
    writable: true,
    processPh: 8.3,
    processTemperature: 26.5,
    ceilingDays: 90,
    installedDaysAgo: 551,
    visitEveryDays: 50,
    lastVisitDaysAgo: 41,
    cautions: ['Treated cooling water. Gloves and eye protection; discharge rules apply.'],
    events: [],
    story: (day) => ({ zero: -2 - 0.025 * (day + 551), slopeEfficiency: 0.983 }),
  },
]

/** The pH sensors of the station. */
export function fleet(): readonly FleetSensor[] {
  return SENSORS
}

/** What a sensor's electrode is like `day` days from today. */
export function truthAt(sensor: FleetSensor, day: number): ElectrodeTruth {
  return { ...SOUND, ...sensor.story(day) }
}

/** The water at a sensor at an instant (epoch ms): a daily swing that peaks in the afternoon, and slow weather. */
export function processAt(sensor: FleetSensor, at: number): SolutionTruth {
  const day = at / 86_400_000
  const hour = (day % 1) * 2 * Math.PI
  // Twins in one tank see the same water: phase by tank, not by sensor.
  const phase = sensor.spot.split(',')[0]?.length ?? 0
  const ph = sensor.processPh + sensor.swing * Math.sin(hour - 1.9) + 0.25 * sensor.swing * Math.sin(day / 3.1 + phase)
  return { ph, temperature: sensor.processTemperature + 0.4 * Math.sin(hour - 2.4) }
}
