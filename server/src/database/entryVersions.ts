import { DECISIONS, READING_SOURCES, type VisitEntry } from '@frustum/core'
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

/**
 * Entries of records are never rewritten: each keeps the version in which it was written (none means 1), is checked by
 * the schema of that version, and is upgraded whenever it is read.
 */

type Schemas = Readonly<Record<VisitEntry['type'], Check>>
type Stored = Record<string, unknown>

const isFormValue = anyOf(isText, isNumber, isFlag)
const isStep = { step: isText }
const reading = {
  signal: isNumber,
  signalUncertainty: isNumber,
  temperature: isNumber,
  stability: shapeOf({ state: isText, seconds: isNumber }),
  trace: isList,
  standard: orMissing(
    shapeOf({
      code: isText,
      value: isNumber,
      lot: orNull(isText),
      lotTable: orMissing(shapeOf({ temperatures: listOf(isNumber), values: listOf(isNumber) })),
    }),
  ),
}

const isTemperatureSource = shapeOf({
  from: isOneOf('device', 'thermometer', 'sensor', 'fixed', 'earlier', 'usual'),
  name: orMissing(isText),
  calibratedAt: orMissing(orNull(isNumber)),
})

const isInstrument = shapeOf({
  kind: isText,
  name: isText,
  serial: isText,
  calibratedAt: orNull(isNumber),
  uncertainty: orNull(isNumber),
  unit: isText,
})

const FIRST: Schemas = {
  done: shapeOf(isStep),
  skipped: shapeOf({ ...isStep, reason: isText }),
  captured: shapeOf({ ...isStep, reading: shapeOf({ ...reading, shown: isNumber }) }),
  typed: shapeOf({ ...isStep, value: isNumber, temperature: isNumber }),
  filled: shapeOf({ ...isStep, values: recordOf(isFormValue) }),
  waiting: shapeOf({ ...isStep, minutes: isNumber, shared: isFlag }),
  redo: shapeOf({ ...isStep, reason: isText }),
  decided: shapeOf({
    ...isStep,
    decision: isOneOf(...DECISIONS),
    proposed: isOneOf(...DECISIONS),
    note: orNull(isText),
  }),
  applied: shapeOf({
    way: isOneOf('link', 'keyed'),
    characteristic: recordOf(isNumber),
    shownAfter: orNull(isNumber),
  }),
  overridden: shapeOf({ rule: isText, reason: isText }),
  'taken-over': shapeOf({ from: isText }),
  abandoned: shapeOf({ reason: isText }),
}

const givenBy = (...ways: string[]) =>
  shapeOf({
    way: isOneOf(...ways),
    characteristic: recordOf(isNumber),
    readBack: orNull(recordOf(isNumber)),
    shownAfter: orNull(shapeOf({ value: isNumber, unit: isText, should: orNull(isNumber), reason: orMissing(isText) })),
  })

/** Since 2 a reading says what of it was read and where its temperature comes from, and what was shown afterwards has its unit. */
const SECOND: Schemas = {
  ...FIRST,
  captured: shapeOf({
    ...isStep,
    reading: shapeOf({
      ...reading,
      shown: orNull(isNumber),
      source: isOneOf(...READING_SOURCES),
      temperatureFrom: orMissing(isTemperatureSource),
    }),
  }),
  filled: shapeOf({ ...isStep, values: recordOf(isFormValue), instruments: orMissing(recordOf(isInstrument)) }),
  redo: shapeOf({ ...isStep, reason: isText, keeps: orMissing(isFlag) }),
  decided: shapeOf({
    ...isStep,
    decision: isOneOf(...DECISIONS),
    proposed: isOneOf(...DECISIONS),
    note: orNull(isText),
    reopens: orMissing(listOf(isText)),
  }),
  typed: shapeOf({
    ...isStep,
    value: isNumber,
    shown: orMissing(isNumber),
    temperature: isNumber,
    temperatureFrom: orMissing(isTemperatureSource),
    still: orMissing(isFlag),
  }),
  applied: givenBy('link', 'keyed', 'key'),
}

/** Since 3 numbers of a device may come from what was noted elsewhere. */
const THIRD: Schemas = {
  ...SECOND,
  applied: givenBy('link', 'keyed', 'key', 'noted'),
}

/** By version, and how an entry of the version before becomes one of it. */
const VERSIONS: readonly { schemas: Schemas; upgrade: (entry: Stored) => Stored }[] = [
  { schemas: FIRST, upgrade: (entry) => entry },
  { schemas: SECOND, upgrade: toSecond },
  { schemas: THIRD, upgrade: (entry) => entry },
]

/** The version in which entries are written now. */
const ENTRY_VERSION = VERSIONS.length

function toSecond(entry: Stored): Stored {
  if (entry.type === 'captured') {
    return { ...entry, reading: { ...(entry.reading as Stored), source: 'not-noted' } }
  }
  if (entry.type !== 'applied') return entry
  // In which unit it was typed was not kept: beside the field stood that of the signal.
  const { shownAfter } = entry
  return {
    ...entry,
    readBack: null,
    shownAfter: shownAfter === null ? null : { value: shownAfter, unit: '', should: null },
  }
}

/** An entry as this version reads it, or why it cannot. */
export function readEntry(stored: unknown): { entry: VisitEntry } | { why: string } {
  const { version = 1, ...rest } = (stored ?? {}) as Stored
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    return { why: 'version is no whole number' }
  if (version > ENTRY_VERSION) return { why: 'version is newer than this program reads' }
  const { type } = rest
  if (typeof type !== 'string' || !Object.hasOwn(FIRST, type)) return { why: 'type is none that is known' }
  const why = (VERSIONS[version - 1] as (typeof VERSIONS)[number]).schemas[type as VisitEntry['type']](rest)
  if (why !== null) return { why }
  const upgraded = VERSIONS.slice(version).reduce((entry, { upgrade }) => upgrade(entry), rest)
  return { entry: upgraded as unknown as VisitEntry }
}

/** What is wrong with an entry of a record, and where; null when it is one that this version reads. */
export const checkEntry: Check = (stored) => {
  const read = readEntry(stored)
  return 'why' in read ? read.why : null
}

/** An entry as it is stored. */
export const writtenEntry = (entry: VisitEntry) => ({ version: ENTRY_VERSION, ...entry })
