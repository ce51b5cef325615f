export * from './ageing.ts'
export { addScores, type ComparedPolicy, type PlayedVisit, type PolicyScore, playPolicy } from './comparePolicies.ts'
export {
  type Contest,
  compareSchools,
  SCHOOL_SUBJECTS,
  type SchoolSubject,
  type SchoolSummary,
  summarise,
} from './compareSchools.ts'
export { FLEET_DOZEN, FLEET_GROUPS, type FleetGroup, simulateCourse } from './driftFleet.ts'
export { simulateFaults } from './faultHistories.ts'
export {
  type ElectrodeTruth,
  PhElectrodeSimulation,
  type SimulatedReading,
  type SolutionTruth,
} from './phElectrodeSimulation.ts'
export { simulatedResistances } from './resistances.ts'
export { NO_FAULTS, type SensorFaults } from './sensorSimulation.ts'
export * from './sensors.ts'
export {
  PH_NATURE,
  type SettlingTrace,
  settlingTraces,
  TRACE_KINDS,
  type TraceKind,
  type TraceNature,
} from './settlingTraces.ts'
export { type Bath, type SensorTruth, type SimulatedSensor, simulateSensor } from './simulatedSensor.ts'
