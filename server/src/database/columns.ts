import {
  BYTE_ORDERS,
  type ConnectionSettings,
  type DeviceAddress,
  HTTP_AUTH,
  type LotTable,
  type Mapping,
  MESSAGE_FORMATS,
  MQTT_VERSIONS,
  PARITIES,
  REGISTER_TABLES,
  REGISTER_TYPES,
  type TellingWishes,
  type VisitSettings,
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
import { customType } from 'drizzle-orm/pg-core'
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

/** Columns of structured values, each with what makes it one. */

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

export const connectionSettings = parsedJson<ConnectionSettings>(
  'way to a bus or host',
  shapeOf({
    host: orMissing(isText),
    port: orMissing(isNumber),
    path: orMissing(isText),
    baud: orMissing(isNumber),
    parity: orMissing(isOneOf(...PARITIES)),
    stopBits: orMissing(isNumber),
    everyMs: orMissing(isNumber),
    answerMs: orMissing(isNumber),
    version: orMissing(isOneOf(...MQTT_VERSIONS)),
    tls: orMissing(isFlag),
    authority: orMissing(isText),
    user: orMissing(isText),
    auth: orMissing(isOneOf(...HTTP_AUTH)),
    url: orMissing(isText),
    linkLocal: orMissing(isFlag),
  }),
)

export const deviceAddress = parsedJson<DeviceAddress>(
  'address of a device',
  shapeOf({ unit: orMissing(isNumber), topic: orMissing(isText), path: orMissing(isText) }),
)

const isPlace = anyOf(
  shapeOf({
    table: isOneOf(...REGISTER_TABLES),
    address: isNumber,
    type: isOneOf(...REGISTER_TYPES),
    order: isOneOf(...BYTE_ORDERS),
    bit: orMissing(isNumber),
  }),
  shapeOf({ topic: orMissing(isText), field: isText }),
)
const channelShape = {
  at: isPlace,
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
      countsFrom: isNumber,
      format: orMissing(isOneOf(...MESSAGE_FORMATS)),
      time: orMissing(isPlace),
      value: isChannel,
      signal: isChannel,
      temperature: orMissing(anyOf(shapeOf(channelShape), shapeOf({ position: isText }))),
      glass: isChannel,
      junction: isChannel,
      status: orMissing(shapeOf({ at: isPlace, bits: orMissing(listOf(isNumber)), values: orMissing(listOf(isText)) })),
      calibration: orMissing(recordOf(shapeOf({ ...channelShape, many: orMissing(isFlag) }))),
      writes: orMissing(isFlag),
      hold: orMissing(shapeOf({ at: isPlace, on: isNumber, off: isNumber, many: orMissing(isFlag) })),
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
