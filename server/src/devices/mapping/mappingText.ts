import { CHANNELS, type DeviceAddress, isElsewhere, type Mapping } from '@frustum/contract'
import { placeText } from './readSensor.ts'

/** A mapping in a line, for the list of changes. */
export function mappingText(mapping: Mapping): string {
  const parts = CHANNELS.flatMap((name) => {
    const there = mapping[name]
    if (!there) return []
    return isElsewhere(there) ? [`${name} of ${there.position}`] : [`${name} at ${placeText(there.at)}`]
  })
  return parts.join(', ') || 'nothing'
}

/** Where a device is, as it stands in its list of changes. */
export const lineText = (connectionId: number | null, address: DeviceAddress): string | null =>
  connectionId === null ? null : JSON.stringify({ connectionId, address })

/** The way back, into the columns of a device. */
export function lineOf(text: unknown): { connectionId: number | null; address: DeviceAddress } {
  if (text === null) return { connectionId: null, address: {} }
  return JSON.parse(String(text)) as { connectionId: number; address: DeviceAddress }
}

/** The same in words; what was changed before connections had names is named by its field. */
export function saidLine(text: string, names: ReadonlyMap<number, string>, field: string): string {
  if (field !== 'line') return text
  const { connectionId, address } = lineOf(text)
  const name = connectionId === null ? 'none' : (names.get(connectionId) ?? `connection ${connectionId}`)
  const { unit, topic, path } = address
  const where = unit === undefined ? topic || path : `unit ${unit}`
  return where ? `${name}, ${where}` : name
}
