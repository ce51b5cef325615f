/**
 * Where the temperature of a reading comes from: the device's own display or line, another thermometer or sensor by
 * name, a value that the device is fixed at; or it was not read, and is that of the same standard earlier at the visit,
 * or the usual one of the water.
 */
export type TemperatureSource =
  | { from: 'device' | 'fixed' | 'earlier' | 'usual' }
  | {
      from: 'thermometer' | 'sensor'
      name: string
      /** Of a thermometer that the site knows: when it was calibrated, epoch ms; null where nobody noted it. */
      calibratedAt?: number | null
    }

/** Those that an operator can name. */
export const TEMPERATURE_SOURCES = ['device', 'thermometer', 'sensor', 'fixed'] as const
