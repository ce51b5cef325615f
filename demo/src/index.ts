export { type FleetSensor, fleet, OPERATORS, PLACES, processAt, SITE, truthAt } from './pellwick.ts'
export { BATHS, type Bath, FAULT_BITS, REGISTERS } from './registers.ts'
