import type { Sentence } from '../quantities/sentence.ts'
import type { AlarmKind, AlarmType, Raised } from './alarmType.ts'
import { HIGH, HIGH_HIGH, LOW, LOW_LOW, RATE_OF_CHANGE } from './types/limits.ts'
import {
  DIFFERENT_UNIT,
  FROZEN,
  IMPLAUSIBLE,
  LEVEL_SHIFT,
  NO_DATA,
  NOISE,
  REDUNDANT_DIFFER,
  UNUSUAL,
} from './types/reading.ts'
import {
  CALIBRATION_CHANGED,
  CLOCK_CHANGED,
  HOLD_FORGOTTEN,
  NO_ROOM,
  NOT_DELIVERED,
  NOT_WATCHED,
} from './types/site.ts'

/** All alarm types, in the order of their consequence. */
const registered: AlarmType[] = [
  HIGH_HIGH,
  LOW_LOW,
  NO_ROOM,
  NOT_DELIVERED,
  IMPLAUSIBLE,
  DIFFERENT_UNIT,
  HIGH,
  LOW,
  RATE_OF_CHANGE,
  NO_DATA,
  FROZEN,
  NOT_WATCHED,
  HOLD_FORGOTTEN,
  REDUNDANT_DIFFER,
  NOISE,
  UNUSUAL,
  LEVEL_SHIFT,
  CALIBRATION_CHANGED,
  CLOCK_CHANGED,
]

/** Returns all alarm types, the gravest first. */
export const alarmTypes = (): readonly AlarmType[] => registered

/**
 * Adds an alarm type.
 * @returns the way to remove it
 * @throws Error where its key is taken
 */
export function registerAlarmType(type: AlarmType): () => void {
  if (registered.some(({ kind }) => kind === type.kind)) throw new Error(`There is an alarm type ${type.kind} already.`)
  registered.push(type)
  return () => void registered.splice(registered.indexOf(type), 1)
}

/** @throws Error for a key that isn't registered */
export function alarmTypeOf(kind: AlarmKind): AlarmType {
  const type = registered.find((t) => t.kind === kind)
  if (!type) throw new Error(`There is no alarm type ${kind}.`)
  return type
}

/** States what is wrong. With a sensor, the text follows its code; of the site, it is a whole sentence. */
export const alarmSentence = (raised: Raised): Sentence => alarmTypeOf(raised.kind).sentence(raised)
