export { BATHS, FAULT_BITS } from './controlRegisters.ts'
export { type StandInUnit, startStandIns } from './modbusStandIns.ts'
export { StandInControl, type StandInState } from './standInControl.ts'
export { StandInTransmitter } from './transmitter.ts'
