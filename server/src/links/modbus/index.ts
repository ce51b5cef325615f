export { ModbusLine } from './modbusLine.ts'
