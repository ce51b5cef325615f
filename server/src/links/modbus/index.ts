export { ModbusLine } from './modbusLine.ts'
export { ModbusLink } from './modbusLink.ts'
export { REGISTERS } from './registerMap.ts'
