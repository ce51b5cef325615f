import type { Mapping, ProtocolForm } from '@frustum/contract'
import { mappingSchemaOf } from '../mapping/mappingSchema.ts'
import { HTTP } from './http/index.ts'
import { MODBUS } from './modbus/index.ts'
import { MQTT } from './mqtt/index.ts'
import type { MappingScheme, Protocol } from './protocol.ts'
import { PUSH } from './push/index.ts'

const registered: Protocol[] = [...MODBUS, MQTT, HTTP, PUSH]

export const protocols = (): readonly Protocol[] => registered

/**
 * Adds a protocol.
 * @returns the way to remove it
 * @throws Error where its key is taken
 */
export function registerProtocol(protocol: Protocol): () => void {
  if (findProtocol(protocol.key)) throw new Error(`There is a protocol ${protocol.key} already.`)
  registered.push(protocol)
  return () => void registered.splice(registered.indexOf(protocol), 1)
}

export const findProtocol = (key: string): Protocol | undefined => registered.find((p) => p.key === key)

/** @throws Error for a key that isn't registered */
export function protocolOf(key: string): Protocol {
  const protocol = findProtocol(key)
  if (!protocol) throw new Error(`There is no protocol ${key}.`)
  return protocol
}

/** The scheme that a mapping is written in; undefined where it is in none. */
export const schemeOf = (mapping: Mapping): MappingScheme | undefined =>
  registered.map((p) => p.mapping).find((scheme) => mappingSchemaOf(scheme).isValidSync(mapping, { strict: true }))

/** What a browser needs to set up a connection. */
export async function protocolForm(protocol: Protocol): Promise<ProtocolForm> {
  const { key, name, polled, ownAddress, mapping } = protocol
  return {
    key,
    name,
    polled,
    ownAddress,
    mapping: { family: mapping.family, ...mapping.form },
    ...(await protocol.form()),
  }
}
