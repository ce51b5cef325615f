import type { InferType } from 'yup'
import { boolean, mixed, number, object, string } from 'yup'

/** What the strip of a stand-in offers in a visit, and what its sensor is in. */
export interface StandInView {
  baths: { name: string; label: string }[]
  faults: { bit: number; label: string }[]
  state: { bath: string; faults: number }
}

export const standInBody = object({
  /** A bath by its name. */
  bath: string().max(40),
  faults: number().integer().min(0).max(65535),
  wipe: boolean(),
  /** What the simulator in place of the sensor plays, in the core unit of the signal. */
  simulate: object({ signal: number().required(), temperature: number().required() }).default(undefined),
  /** The numbers that somebody keys in on the device. */
  keyIn: mixed<Record<string, number>>(),
}).noUnknown()

export type StandInBody = InferType<typeof standInBody>
