export { ModbusLine } from './modbusLine.ts'
export { decodeRegisters, encodeRegisters } from './registers.ts'
