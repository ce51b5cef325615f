export { CONTROLLER_UNIT } from './otherDevices.ts'
export { type FleetSensor, fleet, OPERATORS, processAt, truthAt } from './pellwick.ts'
export { demoExtension } from './server/extension.ts'
export { standInUnits } from './standIns.ts'
