import { CHANNELS, type DeviceAddress, isElsewhere, type Mapping } from '@frustum/contract'
import { findProtocol, schemeOf } from '../protocols/registry.ts'

/** A mapping in one line, for the list of changes. */
export function mappingText(mapping: Mapping): string {
  const scheme = schemeOf(mapping)
  const parts = CHANNELS.flatMap((name) => {
    const channel = mapping[name]
    if (!channel) return []
    if (isElsewhere(channel)) return [`${name} of ${channel.position}`]
    return [`${name} at ${scheme ? scheme.placeText(channel.at) : JSON.stringify(channel.at)}`]
  })
  return parts.join(', ') || 'nothing'
}

/** The connection of a device and its address there, as the list of changes stores them. */
export const lineText = (connectionId: number | null, address: DeviceAddress): string | null =>
  connectionId === null ? null : JSON.stringify({ connectionId, address })

/** The way back, into the columns of a device. */
export function lineOf(text: unknown): { connectionId: number | null; address: DeviceAddress } {
  if (text === null) return { connectionId: null, address: {} }
  return JSON.parse(String(text)) as { connectionId: number; address: DeviceAddress }
}

/** The same in words. Changes from before connections had names are told by another field, and have their text already. */
export function saidLine(
  text: string,
  connections: ReadonlyMap<number, { name: string; protocol: string }>,
  field: string,
): string {
  if (field !== 'line') return text
  const { connectionId, address } = lineOf(text)
  if (connectionId === null) return 'none'
  const connection = connections.get(connectionId)
  if (!connection) return `connection ${connectionId}`
  return [connection.name, findProtocol(connection.protocol)?.addressText(address)].filter(Boolean).join(', ')
}
