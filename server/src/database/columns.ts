import type {
  ConnectionSettings,
  DeviceAddress,
  LotTable,
  Mapping,
  TellingWishes,
  VisitSettings,
} from '@frustum/contract'
import {
  ALARM_SEVERITIES,
  type AlarmLimits,
  CAUSES,
  type CalibrationParameters,
  type Cause,
  type DeviceSetting,
  type FindingCode,
  type PrintedValues,
  type RelativeCalibration,
  type VisitEntry,
  WORKING_PRACTICES,
  type WorkingPractices,
} from '@frustum/core'
import { customType, timestamp } from 'drizzle-orm/pg-core'
import { readEntry, writtenEntry } from './entryVersions.ts'
import {
  anyOf,
  isFlag,
  isNumber,
  isOneOf,
  isText,
  listOf,
  orMissing,
  orNull,
  parsedJson,
  recordOf,
  shapeOf,
} from './parsedJson.ts'

/** Columns of instants, and of structured values, each with what makes it one. */

export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' })

/** Codes may be added later: those of a record are what they were. */
export const findingCodes = parsedJson<readonly FindingCode[]>('list of findings', listOf(isText))

export const textList = parsedJson<readonly string[]>('list of texts', listOf(isText))

export const checkDeviceSetting = shapeOf({
  compensation: orMissing(shapeOf({ law: isText })),
  display: orMissing(isText),
  factoryCell: orMissing(isFlag),
  reference: orMissing(isText),
  ion: orMissing(isText),
  expects: orMissing(isOneOf('activity', 'concentration')),
  fixedTemperature: orMissing(isNumber),
  displays: orMissing(
    recordOf(
      shapeOf({
        decimals: orMissing(isNumber),
        low: orMissing(isNumber),
        high: orMissing(isNumber),
        at4: orMissing(isNumber),
        at20: orMissing(isNumber),
      }),
    ),
  ),
})
export const deviceSetting = parsedJson<DeviceSetting>('setting of a device', checkDeviceSetting)

/** A field as it was before a change, or after it. */
export const changedValue = parsedJson<string | number | boolean | null>(
  'value of a field',
  orNull(anyOf(isText, isNumber, isFlag)),
)

/** Which keys there are is the protocol's affair. */
const isScalars = recordOf(anyOf(isText, isNumber, isFlag))

export const connectionSettings = parsedJson<ConnectionSettings>('way to a bus or host', isScalars)

export const deviceAddress = parsedJson<DeviceAddress>('address of a device', isScalars)

const channelShape = {
  at: isScalars,
  unit: isText,
  scale: isNumber,
  offset: isNumber,
  low: orMissing(isNumber),
  high: orMissing(isNumber),
  none: orMissing(listOf(isText)),
  span: orMissing(shapeOf({ at4: isNumber, at20: isNumber, unit: isText })),
}
const isChannel = orMissing(shapeOf(channelShape))

export const mappingColumn = parsedJson<Mapping | null>(
  'mapping of a sensor',
  orNull(
    shapeOf({
      value: isChannel,
      signal: isChannel,
      temperature: orMissing(anyOf(shapeOf(channelShape), shapeOf({ position: isText }))),
      glass: isChannel,
      junction: isChannel,
      status: orMissing(
        shapeOf({ at: isScalars, bits: orMissing(listOf(isNumber)), values: orMissing(listOf(isText)) }),
      ),
      calibration: orMissing(recordOf(shapeOf({ ...channelShape, many: orMissing(isFlag) }))),
      writes: orMissing(isFlag),
      hold: orMissing(shapeOf({ at: isScalars, on: isNumber, off: isNumber, many: orMissing(isFlag) })),
    }),
  ),
)

export const alarmLimits = parsedJson<AlarmLimits | null>(
  'limits of a position',
  orNull(
    shapeOf({
      lowLow: orMissing(isNumber),
      low: orMissing(isNumber),
      high: orMissing(isNumber),
      highHigh: orMissing(isNumber),
      perHour: orMissing(isNumber),
      apart: orMissing(isNumber),
      hysteresis: isNumber,
      delaySeconds: isNumber,
    }),
  ),
)

export const checkLotTable = shapeOf({ temperatures: listOf(isNumber), values: listOf(isNumber) })
export const lotTable = parsedJson<LotTable | null>('table of a lot', orNull(checkLotTable))

export const printedValues = parsedJson<PrintedValues>('values of a standard', checkLotTable)

export const readerChoices = parsedJson<Readonly<Record<string, string>>>('choice of units', recordOf(isText))

export const formTexts = parsedJson<Readonly<Record<string, string | boolean>>>(
  'values of a form',
  recordOf(anyOf(isText, isFlag)),
)

/** Topics may be added later: those that are there must be known choices. */
export const workingPractices = parsedJson<WorkingPractices>(
  'choice of working practices',
  shapeOf(
    Object.fromEntries(
      Object.entries(WORKING_PRACTICES).map(([topic, { choices }]) => [
        topic,
        orMissing(isOneOf(...Object.keys(choices))),
      ]),
    ),
  ),
)

const isFormValue = anyOf(isText, isNumber, isFlag)

export const checkVisitSettings = shapeOf({ standards: recordOf(isText), opening: recordOf(isFormValue) })
export const visitSettings = parsedJson<VisitSettings>('choice of standards', checkVisitSettings)

export const calibrationParameters = parsedJson<CalibrationParameters>('calibration', recordOf(isNumber))

export const relativeCalibration = parsedJson<RelativeCalibration>(
  'relative calibration',
  shapeOf({ found: recordOf(isNumber), held: recordOf(isNumber) }),
)

export const proposedCauses = parsedJson<readonly { cause: Cause; probability: number }[]>(
  'diagnosis',
  listOf(shapeOf({ cause: isOneOf(...CAUSES), probability: isNumber })),
)

/** An entry that this version cannot read, as it stands in the database. */
export interface UnreadableEntry {
  type: 'unreadable'
  why: string
  as: unknown
}

/**
 * One that cannot be read is handed on as such: it must not take down what else is asked for with it. What needs the
 * whole record asks for `readableLines`.
 */
export const visitEntry = customType<{ data: VisitEntry | UnreadableEntry; driverData: unknown }>({
  dataType: () => 'jsonb',
  toDriver: (value) => JSON.stringify(value.type === 'unreadable' ? value.as : writtenEntry(value)),
  fromDriver: (value) => {
    const read = readEntry(value)
    return 'entry' in read ? read.entry : { type: 'unreadable', why: read.why, as: value }
  },
})

/** Bytes as they are. */
export const binary = customType<{ data: Buffer; driverData: Uint8Array }>({
  dataType: () => 'bytea',
  toDriver: (bytes) => bytes,
  fromDriver: (bytes) => Buffer.from(bytes),
})

export const tellingWishes = parsedJson<TellingWishes>(
  'wishes of a recipient',
  shapeOf({
    alarms: orNull(isOneOf(...ALARM_SEVERITIES)),
    from: isNumber,
    to: isNumber,
    afterMinutes: isNumber,
    repeatMinutes: isNumber,
    digestHour: orNull(isNumber),
    reminders: isFlag,
  }),
)
