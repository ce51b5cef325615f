export { CONSUMABLES, type FleetSensor, fleet, OPERATORS, PLACES, processAt, SITE, truthAt } from './pellwick.ts'
export { BATHS, FAULT_BITS, REGISTERS } from './registers.ts'
export { SHELF } from './shelf.ts'
