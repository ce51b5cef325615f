import {
  CHANNELS,
  type ChannelName,
  channelOf,
  isElsewhere,
  type Mapping,
  type Place,
  type RawView,
} from '@frustum/contract'
import type { SensorReading } from '@frustum/core'
import { modelOf } from '@frustum/core'
import { LineProblem } from '../lineProblem.ts'
import type { FollowedSensor } from '../link.ts'
import type { MappingScheme } from '../protocols/protocol.ts'
import { faultOf, type RawNumber, readChannel } from './channel.ts'

/** What stands at a place: the number, the bytes that it came in, or the text where it is none. */
export interface Found extends RawNumber {
  bytes?: Uint8Array
  text?: string | boolean
}

/** As it came, for whoever looks. */
const asItCame = ({ bytes, text, value }: Found): string =>
  bytes
    ? Buffer.from(bytes)
        .toString('hex')
        .toUpperCase()
        .replace(/(.{4})(?=.)/g, '$1 ')
    : String(text ?? value)

/** What a device gave last, as its protocol finds it. */
export interface DeviceData {
  scheme: Pick<MappingScheme, 'placeText' | 'sendsStatus'>
  /** Returns undefined where nothing came for the place. */
  find(at: Place): Found | undefined
}

/** Resistances may be missing: other devices of the same mapping do not measure them. */
const OPTIONAL: readonly string[] = ['glass', 'junction']

/** In which unit each number of a sensor is wanted. */
export function wantedUnits({ kind, setting }: Pick<FollowedSensor, 'kind' | 'setting'>): Record<string, string> {
  const model = modelOf(kind)
  return {
    value: model.shownScale(setting).unit,
    signal: model.signalUnit,
    temperature: '°C',
    glass: 'MΩ',
    junction: 'kΩ',
  }
}

/** Every number of a mapping as it came, and what was made of it. */
export function rawReadings(
  sensor: Pick<FollowedSensor, 'kind' | 'setting' | 'mapping'>,
  { scheme, find }: DeviceData,
): RawView[] {
  const units = wantedUnits(sensor)
  return CHANNELS.flatMap((name) => {
    const channel = channelOf(sensor.mapping, name)
    if (!channel) return []
    const unit = units[name] ?? ''
    const found = find(channel.at)
    const read = found ? readChannel(found, channel, unit) : { missing: 'did not come' }
    const value = 'value' in read ? read.value : null
    const missing = 'missing' in read ? read.missing : null
    return [
      { channel: name, place: scheme.placeText(channel.at), raw: found ? asItCame(found) : '', value, unit, missing },
    ]
  })
}

/**
 * The reading of a sensor from what came for its places.
 * @throws LineProblem where one that has to be there is none
 */
export function readingOf(
  sensor: FollowedSensor,
  data: DeviceData,
  { at, temperatureAt }: { at: number; temperatureAt: (code: string) => number | null },
): SensorReading {
  const { mapping } = sensor
  if (!mapping.value && !mapping.signal) {
    throw new LineProblem('not-mapped', 'Neither its value nor its signal is mapped yet.')
  }
  refuseFault(mapping, data)
  const units = wantedUnits(sensor)
  const value = (name: ChannelName): number | null => {
    const channel = channelOf(mapping, name)
    if (!channel) return null
    const found = data.find(channel.at)
    const read = found ? readChannel(found, channel, units[name] ?? '') : { missing: 'did not come' }
    if ('value' in read) return read.value
    if (OPTIONAL.includes(name)) return null
    throw new LineProblem('no-reading', `Its ${name} (${data.scheme.placeText(channel.at)}) ${read.missing}.`)
  }
  const [glass, junction] = [value('glass'), value('junction')]
  const resistances = {
    ...(glass !== null && glass > 0 ? { glass } : {}),
    ...(junction !== null && junction > 0 ? { junction } : {}),
  }
  return {
    at,
    signal: value('signal'),
    shown: value('value'),
    ...temperatureOf(mapping, value('temperature'), temperatureAt),
    ...(Object.keys(resistances).length > 0 ? { resistances } : {}),
  }
}

function temperatureOf(
  { temperature }: Mapping,
  own: number | null,
  temperatureAt: (code: string) => number | null,
): Pick<SensorReading, 'temperature' | 'temperatureFrom'> {
  if (!temperature || !isElsewhere(temperature)) return { temperature: own }
  const name = temperature.position
  const there = temperatureAt(name)
  if (there === null) throw new LineProblem('no-reading', `${name}, which measures its temperature, gives none.`)
  return { temperature: there, temperatureFrom: { from: 'sensor', name } }
}

function refuseFault({ status }: Mapping, { scheme, find }: DeviceData): void {
  if (!status) return
  const found = find(status.at)
  if (!found && scheme.sendsStatus) return
  const fault = faultOf(found ? (found.text ?? found.value) : null, status)
  if (fault) throw new LineProblem('no-reading', `The device reports a fault: ${fault}.`)
}
