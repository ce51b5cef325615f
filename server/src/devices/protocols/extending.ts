/** What is needed to add a protocol from outside, and to play a device of a protocol that is there. */
export { Exchanges } from '../exchanges.ts'
export { LineProblem } from '../lineProblem.ts'
export type { Driver, FollowedDevice, LineState, Tried } from '../link.ts'
export { rawReadings, readingOf } from '../mapping/readSensor.ts'
export type { FieldMapping, FieldPlace, MessageFormat } from './messages/message.ts'
export { ModbusLine } from './modbus/modbusLine.ts'
export {
  BYTE_ORDERS,
  isRegister,
  type RegisterHold,
  type RegisterMapping,
  type RegisterParameter,
  type RegisterPlace,
  type RegisterTable,
  registerMapping,
  wordsOfType,
} from './modbus/place.ts'
export { decodeRegisters, encodeRegisters } from './modbus/registers.ts'
export { below, type MappingScheme, type Opening, type Protocol, type Search } from './protocol.ts'
export { registerProtocol } from './registry.ts'
