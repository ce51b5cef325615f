/** Something that happened to a sensor between its visits, as the operator saw it. */
export interface SensorEventKind {
  label: string
  /** It is another sensor afterwards: what was known of its course begins anew. */
  cuts: boolean
  /** It may be off since: a check is due from then on. */
  asks: boolean
}

/** Events that are entered by hand, in the order in which they are offered (common practice, no source). */
export const SENSOR_EVENTS = {
  unplugged: { label: 'Unplugged', cuts: false, asks: true },
  'left-dry': { label: 'Dried out', cuts: true, asks: true },
  'device-reset': { label: 'Device reset', cuts: false, asks: true },
  'power-failure': { label: 'Power failure', cuts: false, asks: true },
  upset: { label: 'Upset of the water', cuts: true, asks: true },
  refilled: { label: 'Electrolyte refilled', cuts: true, asks: true },
  'tip-replaced': { label: 'Only the tip replaced', cuts: true, asks: true },
  moved: { label: 'Moved', cuts: true, asks: true },
  cleaned: { label: 'Cleaned between visits', cuts: false, asks: false },
  note: { label: 'Something else', cuts: false, asks: false },
} as const satisfies Record<string, SensorEventKind>

/** Noted where a sensor was at work before anybody entered it: what it shows is believed once it was checked. */
export const TAKEN_ON = { kind: 'taken-on', label: 'Taken on as it was found' } as const

export type SensorEvent = keyof typeof SENSOR_EVENTS

/** What is known of a kind of event; null of those that the product notes by itself. */
export const sensorEvent = (kind: string): SensorEventKind | null =>
  Object.hasOwn(SENSOR_EVENTS, kind) ? SENSOR_EVENTS[kind as SensorEvent] : null
