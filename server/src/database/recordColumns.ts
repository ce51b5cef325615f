import type { VisitSettings } from '@frustum/contract'
import { type Assessment, type ClosedRecord, DECISIONS, type Setup, sensorKinds } from '@frustum/core'
import { canonicalJson } from './canonicalJson.ts'
import { checkDeviceSetting, checkLotTable, checkVisitSettings } from './columns.ts'
import {
  anyOf,
  type Check,
  isFlag,
  isList,
  isNumber,
  isOneOf,
  isText,
  listOf,
  orMissing,
  orNull,
  recordOf,
  shapeOf,
} from './parsedJson.ts'

/** The columns in which a record keeps what it was judged with, what was concluded, and what it says since it is closed. */

/** What the site knew of a position, its device and its sensor. */
export interface PlaceFacts {
  site: { name: string; timeZone: string }
  place: { name: string; water: string }
  /** The row of the position, without keys that only one database knows. */
  position: Record<string, unknown> & { code: string; kind: string; spot: string }
  /** The same of the device, without its line. */
  device: Record<string, unknown> & { name: string }
  sensor: { serialNumber: string; kind: string; model: string; isothermalPh: number }
  /** Instant, ISO 8601. */
  installedAt: string
}

/** All that a visit is judged with, as it was when the visit began. */
export interface StoredSnapshot extends PlaceFacts {
  version: 1
  /** Records of before this was kept have the best that was known later. */
  known: 'at its start' | 'later'
  program: string
  procedure: { id: string; version: number }
  settings: VisitSettings
  setup: Setup
  /** In which signals, displays and errors are stored. */
  units: { signal: string; shown: string; error: string }
}

/** What was said when something was decided. */
export interface StoredAssessment {
  version: 1
  known: StoredSnapshot['known']
  program: string
  step: string
  assessment: Assessment
  /** The texts of it, as they were shown. */
  text: {
    figures: readonly { label: string; value: string; note: string }[]
    findings: readonly { sentence: string; advice: string }[]
    reason: string
  }
}

export const isKind = (value: unknown) => isOneOf(...sensorKinds())(value)
const checkSensor = shapeOf({ serialNumber: isText, kind: isKind, model: isText, isothermalPh: isNumber })
const checkSetup = shapeOf({
  kind: isKind,
  position: isText,
  processValue: isNumber,
  processTemperature: isNumber,
  tolerance: isNumber,
  device: checkDeviceSetting,
  shows: isOneOf('signal', 'value'),
  linked: isFlag,
  gives: orMissing(isOneOf('value', 'signal', 'both')),
  readsBack: orMissing(isFlag),
  holds: orMissing(isFlag),
  writable: isFlag,
  adjustsBy: isOneOf('numbers', 'key', 'nothing'),
  calibrationKey: isText,
  whileCalibrating: orMissing(isOneOf('value', 'word')),
  activeCalibration: recordOf(isNumber),
  unknownParameters: orMissing(listOf(isText)),
  previous: orNull(shapeOf({ characteristic: recordOf(isNumber), at: isNumber })),
  standards: recordOf(
    shapeOf({
      code: isText,
      lotTable: orMissing(checkLotTable),
      lot: orNull(shapeOf({ lot: isText, expired: isFlag, openTooLong: isFlag, daysOver: isNumber })),
    }),
  ),
  practices: recordOf(isText),
  settlingHistory: listOf(isNumber),
  authorityRule: orNull(isText),
  diagnosed: orMissing(
    orNull(shapeOf({ cause: isText, name: isText, remedy: isText, probability: isNumber, final: isFlag })),
  ),
  twins: listOf(shapeOf({ position: isText, value: isNumber, uncertainty: isNumber, outside: orMissing(isNumber) })),
  outside: orMissing(isNumber),
  routine: orMissing(isFlag),
})

/** What the row of a position must hold at least. */
export const positionShape = {
  kind: isKind,
  spot: isText,
  processValue: isNumber,
  processTemperature: isNumber,
  tolerance: isNumber,
  floorDays: isNumber,
  ceilingDays: isNumber,
  cautions: listOf(isText),
}
export const checkDevice = shapeOf({
  name: isText,
  shows: isOneOf('signal', 'value'),
  setting: checkDeviceSetting,
})

const isKnown = isOneOf('at its start', 'later')
const isVersion = isOneOf(1)

export const checkSnapshot = shapeOf({
  version: isVersion,
  known: isKnown,
  program: isText,
  procedure: shapeOf({ id: isText, version: isNumber }),
  settings: checkVisitSettings,
  setup: checkSetup,
  units: shapeOf({ signal: isText, shown: isText, error: isText }),
  site: shapeOf({ name: isText, timeZone: isText }),
  place: shapeOf({ name: isText, water: isText }),
  position: shapeOf({ code: isText, ...positionShape }),
  device: checkDevice,
  sensor: checkSensor,
  installedAt: isText,
})

const isQuantity = shapeOf({ value: isNumber, unit: isText, decimals: isNumber })
const isCount = shapeOf({ count: isNumber, one: isText, many: isText })
const isInstant = shapeOf({ at: isNumber })
const isSentence = anyOf(isText, listOf(anyOf(isText, isQuantity, isCount, isInstant)))
const isFigure = shapeOf({ label: isText, value: anyOf(isSentence, isQuantity), note: isSentence })
const isFinding = shapeOf({ code: isText, severity: isText, sentence: isSentence, advice: isSentence })
const isDecision = isOneOf(...DECISIONS)
const said = {
  figures: listOf(isFigure),
  findings: listOf(isFinding),
  proposal: shapeOf({ decision: isDecision, reason: isSentence }),
  choices: listOf(isDecision),
}

export const checkAssessment = shapeOf({
  version: isVersion,
  known: isKnown,
  program: isText,
  step: isText,
  assessment: shapeOf(said),
  text: shapeOf({ figures: isList, findings: isList, reason: isText }),
})

export const checkRecord: Check = shapeOf({
  version: isVersion,
  procedureName: isText,
  work: orNull(isText),
  lines: listOf(shapeOf({ seq: isNumber, at: isNumber, operator: isText, sentence: isSentence })),
  points: listOf(
    shapeOf({
      step: isText,
      label: isText,
      seq: isNumber,
      at: isNumber,
      signal: orNull(isQuantity),
      shown: orNull(isQuantity),
      workedOut: orNull(isText),
      standard: orNull(shapeOf({ label: isText, value: isQuantity, lot: orNull(isText) })),
    }),
  ),
  result: orNull(shapeOf(said)),
  decisions: listOf(shapeOf({ step: isText, decision: isDecision, proposed: isDecision, note: orNull(isText) })),
  applied: orNull(shapeOf({ parameters: isSentence, way: isText })),
  asFound: orNull(isQuantity),
  asLeft: orNull(isQuantity),
  drift: orNull(isSentence),
})

export const visitSnapshot = canonicalJson<StoredSnapshot>('snapshot of a visit', checkSnapshot)
export const storedAssessment = canonicalJson<StoredAssessment>('assessment', checkAssessment)
export const storedRecord = canonicalJson<ClosedRecord>('closed record', checkRecord)
