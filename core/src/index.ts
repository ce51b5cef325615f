export {
  type Finding,
  type FindingCode,
  findingsOfTwoPoints,
  findWrongStandard,
  type LotState,
  PH_LIMITS,
  type Severity,
} from './calibration/findings.ts'
export {
  calibratePhTwoPoint,
  errorAtProcessValue,
  millivoltsBehindDisplay,
  type PhCalibration,
  type PhPoint,
  phUncertaintyAt,
} from './calibration/phCalibration.ts'
export {
  DAY_MS,
  type DriftForecast,
  type DriftObservation,
  daysWithinTolerance,
  expectedError,
  forecastDrift,
  probabilityInTolerance,
} from './drift/driftForecast.ts'
export { nernstSlope } from './electrode/nernst.ts'
export {
  IDEAL_CHARACTERISTIC,
  ISOTHERMAL_PH,
  millivoltsToPh,
  type PhCharacteristic,
  phToMillivolts,
} from './electrode/phElectrode.ts'
export {
  type Decision,
  judgeTolerance,
  type ProposedDecision,
  proposeAfterCheck,
  proposeAfterTwoPoints,
  type ToleranceVerdict,
} from './judgement/decision.ts'
export { type IntervalPolicy, type NextDate, nextDate, type SensorState, sensorState } from './planning/interval.ts'
export {
  CAPTURE_STEPS,
  currentStep,
  PH_STEPS,
  type PhStepKey,
  phProcedure,
  proposeBuffers,
  type VisitCourse,
  type VisitKind,
} from './planning/phProcedure.ts'
export { OutOfRange, type RangeViolation, requireWithin } from './quantities/outOfRange.ts'
export { readTypedNumber, type TypedNumber } from './quantities/typedNumber.ts'
export {
  type ElectrodeFaults,
  type ElectrodeTruth,
  NO_FAULTS,
  PhElectrodeSimulation,
  type SimulatedReading,
  type SolutionTruth,
} from './simulation/phElectrodeSimulation.ts'
export { stabilityJudge } from './stability/judge.ts'
export type {
  Sample,
  StabilityJudge,
  StabilityOpinion,
  StabilityReason,
  StabilityState,
} from './stability/opinion.ts'
export { STABILITY_PRESETS, type StabilityPreset } from './stability/presets.ts'
export type { SettlingSignature } from './stability/settlingSignature.ts'
export { PH_BUFFERS, type PhBuffer, type PhTable, phBuffer, phBufferValue } from './standards/phBuffers.ts'
export { leastSquares, type StraightLine } from './statistics/leastSquares.ts'
export { median, quantile } from './statistics/median.ts'
export { Z95 } from './statistics/normalDistribution.ts'
export { type RandomStream, randomStream } from './statistics/random.ts'
export { type RobustTrend, theilSen } from './statistics/theilSen.ts'
