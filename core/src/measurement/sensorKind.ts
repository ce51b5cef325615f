/**
 * Names of the kinds of sensor; each kind's folder adds its own by declaration merging.
 * @public
 */
// biome-ignore lint/suspicious/noEmptyInterface: filled by core/src/kinds/*/index.ts
export interface SensorKinds {}

/** What a sensor measures, by the way it is calibrated. */
export type SensorKind = keyof SensorKinds
