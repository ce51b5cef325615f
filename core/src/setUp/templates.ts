import { modelOf } from '../kinds/index.ts'
import type { DeviceSetting } from '../measurement/measurementModel.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import { WATER_CAUTIONS, WATERS, type Water } from '../measurement/waters.ts'
import { nullIfOutOfRange } from '../quantities/outOfRange.ts'

/** What a new position starts with, until somebody says otherwise. */
export interface Template {
  /** The usual value, as the device shows it. */
  shown: number
  /** degC */
  temperature: number
  /** In the unit of the kind's errors. */
  tolerance: number
  /** The calendar that holds until the sensor's own drift is known, and the bounds of any interval, days. */
  startingDays: number
  floorDays: number
  ceilingDays: number
  /** What a wrong reading does here: 1 a nuisance, 2 a loss, 3 harm to livestock, people or the permit. */
  consequence: 1 | 2 | 3
  device: DeviceSetting
}

/** Days: the calendar until its own drift is known, the shortest interval, the longest. */
type Days = readonly [starting: number, floor: number, ceiling: number]

interface Row {
  /** Usual value on the display, and the tolerance. */
  is: readonly [shown: number, tolerance: number]
  days?: Days
  device?: DeviceSetting
}

/**
 * Of each water: what holds for every sensor in it, then a row a kind. A kind without a row is not usually measured
 * there and starts with that of `ELSEWHERE`. All figures are common practice, no source: a start, and no limit of a
 * permit.
 */
const TEMPLATES: Record<
  Water,
  { temperature: number; days: Days; consequence: 1 | 2 | 3; rows: Partial<Record<string, Row>> }
> = {
  seawater: {
    temperature: 25,
    days: [90, 14, 120],
    consequence: 3,
    rows: {
      ph: { is: [8.2, 0.1] },
      conductivity: {
        is: [35, 2],
        device: { display: 'salinity', compensation: { law: 'seawater' } },
      },
      orp: { is: [350, 30] },
      temperature: { is: [25, 0.5], days: [180, 30, 365] },
      ion: { is: [420, 8], days: [30, 7, 60], device: { ion: 'calcium' } },
      'nitrate-optical': { is: [2, 1], days: [60, 14, 120] },
    },
  },
  freshwater: {
    temperature: 25,
    days: [90, 14, 120],
    consequence: 3,
    rows: {
      ph: { is: [7, 0.15] },
      conductivity: {
        is: [400, 5],
        device: { display: 'µS/cm', compensation: { law: 'natural-water' } },
      },
      orp: { is: [300, 30] },
      temperature: { is: [25, 0.5], days: [180, 30, 365] },
      ion: { is: [20, 12], days: [30, 7, 60], device: { ion: 'nitrate' } },
      'nitrate-optical': { is: [5, 1.5], days: [60, 14, 120] },
    },
  },
  nutrient: {
    temperature: 21,
    days: [30, 7, 60],
    consequence: 2,
    rows: {
      ph: { is: [5.8, 0.15] },
      conductivity: {
        is: [2, 5],
        device: { display: 'mS/cm', compensation: { law: 'linear', alpha: 2, reference: 25 } },
      },
      orp: { is: [350, 40] },
      temperature: { is: [21, 0.5], days: [90, 30, 365] },
      ion: { is: [700, 12], days: [14, 3, 30], device: { ion: 'nitrate' } },
      'nitrate-optical': { is: [150, 10] },
    },
  },
  boiler: {
    temperature: 25,
    days: [30, 7, 90],
    consequence: 2,
    rows: {
      ph: { is: [9.2, 0.2], days: [14, 3, 30] },
      conductivity: {
        is: [0.2, 5],
        days: [30, 14, 180],
        device: { display: 'µS/cm', compensation: { law: 'high-purity' } },
      },
      orp: { is: [-150, 40] },
      temperature: { is: [25, 0.5], days: [90, 30, 365] },
      ion: { is: [0.01, 20], days: [7, 1, 30], device: { ion: 'sodium' } },
    },
  },
  pure: {
    temperature: 22,
    days: [30, 7, 90],
    consequence: 2,
    rows: {
      ph: { is: [6.5, 0.2], days: [14, 3, 30] },
      conductivity: {
        is: [15, 5],
        days: [30, 14, 180],
        device: { display: 'MΩ·cm', compensation: { law: 'high-purity' } },
      },
      orp: { is: [300, 40] },
      temperature: { is: [22, 0.5], days: [90, 30, 365] },
    },
  },
  cooling: {
    temperature: 30,
    days: [30, 7, 60],
    consequence: 2,
    rows: {
      ph: { is: [8.2, 0.2] },
      conductivity: {
        is: [1500, 5],
        device: { display: 'µS/cm', compensation: { law: 'linear', alpha: 2, reference: 25 } },
      },
      orp: { is: [600, 30] },
      chlorine: { is: [0.5, 0.1], days: [14, 3, 30] },
      temperature: { is: [30, 1], days: [90, 30, 365] },
      ion: { is: [150, 12], days: [14, 3, 30], device: { ion: 'chloride' } },
    },
  },
  drinking: {
    temperature: 15,
    days: [30, 7, 60],
    consequence: 3,
    rows: {
      ph: { is: [7.6, 0.1] },
      conductivity: {
        is: [500, 5],
        device: { display: 'µS/cm', compensation: { law: 'natural-water' } },
      },
      orp: { is: [650, 30] },
      chlorine: { is: [0.5, 0.05], days: [14, 3, 30] },
      temperature: { is: [15, 0.5], days: [90, 30, 365] },
      ion: { is: [1, 10], days: [14, 3, 30], device: { ion: 'fluoride' } },
      'nitrate-optical': { is: [5, 0.5] },
    },
  },
  wash: {
    temperature: 30,
    days: [7, 2, 30],
    consequence: 2,
    rows: {
      ph: { is: [7.5, 0.3] },
      conductivity: {
        is: [10, 8],
        days: [14, 3, 60],
        device: { display: 'mS/cm', compensation: { law: 'linear', alpha: 2, reference: 25 } },
      },
      orp: { is: [250, 40] },
      temperature: { is: [30, 1], days: [90, 30, 365] },
      ion: { is: [150, 15], device: { ion: 'chloride' } },
    },
  },
}

/** A kind where it is not usually measured. */
const ELSEWHERE: Readonly<Record<string, Row>> = {
  ion: { is: [10, 15], device: { ion: 'nitrate' } },
  chlorine: { is: [0.5, 0.1] },
  'nitrate-optical': { is: [5, 1.5] },
}

/** Waters in which a kind is usually measured. */
export const usualIn = (kind: SensorKind, water: Water): boolean => TEMPLATES[water].rows[kind] !== undefined

/**
 * What a position for this kind of sensor in this water starts with.
 * @throws RangeError for a kind that nothing is known of
 * @example templateFor('ph', 'seawater').startingDays // 90
 */
export function templateFor(kind: SensorKind, water: Water): Template {
  const { rows, days, temperature, consequence } = TEMPLATES[water]
  const row = rows[kind] ?? ELSEWHERE[kind]
  if (!row) throw new RangeError(`There is no template for "${kind}".`)
  const [shown, tolerance] = row.is
  const [startingDays, floorDays, ceilingDays] = row.days ?? days
  const { device = {} } = row
  return { shown, temperature, tolerance, startingDays, floorDays, ceilingDays, consequence, device }
}

/** What is said before each visit in this water. */
export const cautionsIn = (water: Water): string[] => [WATER_CAUTIONS[WATERS[water].caution]]

/**
 * A value as it is shown, in the core unit of the kind: what an ideal sensor on this device sees.
 * @param temperature of the water, degC
 * @throws OutOfRange for a value that the device cannot show
 * @example valueShown('conductivity', 2, 25, { display: 'mS/cm' }) // 2000
 */
export function valueShown(kind: SensorKind, shown: number, temperature: number, device: DeviceSetting): number {
  const model = modelOf(kind)
  const signal = model.fromShown(shown, temperature, model.ideal, device)
  return model.valueOf(signal, temperature, model.ideal, device)
}

/**
 * A value in the core unit of a kind as this device shows it with an ideal sensor, the inverse of `valueShown`; null
 * where it cannot show it.
 * @example shownValue('conductivity', 2000, 25, { display: 'mS/cm' }) // 2
 */
export function shownValue(kind: SensorKind, value: number, temperature: number, device: DeviceSetting): number | null {
  const model = modelOf(kind)
  return nullIfOutOfRange(() => {
    const signal = model.signalOf(value, temperature, model.ideal, device)
    return model.toShown(signal, temperature, model.ideal, device)
  })
}
