export * from './alarms/alarmLimits.ts'
export * from './alarms/alarmStatistics.ts'
export * from './alarms/alarmType.ts'
export * from './alarms/alarmTypes.ts'
export { type AlarmChange, AlarmWatch } from './alarms/alarmWatch.ts'
export * from './alarms/apartWatch.ts'
export * from './alarms/levelShift.ts'
export * from './alarms/quickLimits.ts'
export { LEVEL_SHIFT, REDUNDANT_DIFFER } from './alarms/types/reading.ts'
export * from './alarms/types/site.ts'
export { type DaySummary, dayStart, daySummary, type Usual, usualOf } from './alarms/usual.ts'
export type { WatchedReading } from './alarms/watchedReading.ts'
export * from './calibration/conductivityCalibration.ts'
export * from './calibration/displayChain.ts'
export * from './calibration/electronicsCheck.ts'
export * from './calibration/expectedDisplay.ts'
export type { Finding, FindingCode, LotFacts, Severity } from './calibration/finding.ts'
export * from './calibration/ionCalibration.ts'
export { findingsOfLots } from './calibration/lotFindings.ts'
export * from './calibration/orpCalibration.ts'
export {
  calibratePhTwoPoint,
  errorAtProcessValue,
  millivoltsBehindDisplay,
  type PhCalibration,
  type PhPoint,
  phUncertaintyAt,
} from './calibration/phCalibration.ts'
export * from './calibration/phMultiPoint.ts'
export * from './calibration/sampleCorrection.ts'
export * from './calibration/slips.ts'
export * from './calibration/temperatureCalibration.ts'
export * from './chemistry/activity.ts'
export * from './chemistry/ions.ts'
export * from './chemistry/nitrogen.ts'
export * from './chemistry/standardAddition.ts'
export * from './conductivity/compensation.ts'
export * from './conductivity/practicalSalinity.ts'
export * from './conductivity/pureWater.ts'
export * from './conductivity/scales.ts'
export * from './conductivity/seawaterDensity.ts'
export { type ConePoint, forecastCone } from './drift/cone.ts'
export {
  type DriftForecast,
  type DriftHistory,
  daysWithinTolerance,
  errorQuantile,
  expectedError,
  FARTHEST_DAYS,
  filterHistory,
  forecastDrift,
  forecastOfReading,
  forecastSite,
  probabilityInTolerance,
} from './drift/driftForecast.ts'
export {
  type AgeingSeries,
  type EndOfLife,
  endOfLife,
  endOrder,
  firstEnd,
  fromNow,
  orderBy,
} from './drift/endOfLife.ts'
export { type NumbersChange, withNumbersChanged } from './drift/numbersChanged.ts'
export { DAY_MS, type DriftObservation, type UsualDrift } from './drift/observation.ts'
export { type DriftSeries, driftSeries, type RecordedVisit, type SetAside } from './drift/series.ts'
export { type Apart, withTwin } from './drift/twin.ts'
export * from './electrode/ionSelective.ts'
export { nernstSlope } from './electrode/nernst.ts'
export {
  IDEAL_CHARACTERISTIC,
  ISOTHERMAL_PH,
  millivoltsToPh,
  type PhCharacteristic,
  phToMillivolts,
} from './electrode/phElectrode.ts'
export * from './electrode/referenceElectrodes.ts'
export { CAUSE_WORDS, CAUSES, type Cause } from './health/causes.ts'
export { type Diagnosis, diagnose, type NextTest, type RankedCause } from './health/diagnose.ts'
export { type Diagnosed, diagnosed } from './health/diagnosed.ts'
export { evidenceOf, type HealthRecord } from './health/evidence.ts'
export {
  type Answer,
  type DiagnosticEvidence as HealthEvidence,
  FEATURE_WORDS,
  FEATURES,
  type Feature,
} from './health/features.ts'
export type { HealthTraits } from './health/healthTraits.ts'
export type { HealthVisit } from './health/healthVisit.ts'
export { type AgeingVisit, ageingSeries } from './health/limits.ts'
export { SENSOR_EVENTS, type SensorEvent, sensorEvent, TAKEN_ON } from './health/sensorEvents.ts'
export { type BodyVisit, type SharedReference, separateSharedReference } from './health/sharedReference.ts'
export { type Trouble, type TroubleHistory, troublesOf } from './health/troubles.ts'
export { type ClosedVisit, type HealthSensor, healthVisits, settlingSeconds, zeroOf } from './health/visitHealth.ts'
export * from './judgement/agreement.ts'
export {
  DECISION_WORDS,
  DECISIONS,
  type Decision,
  decisionInfinitive,
  decisionWords,
  judgeTolerance,
  type ProposedDecision,
  proposeAfterCalibration,
  proposeAfterCheck,
  type ToleranceVerdict,
} from './judgement/decision.ts'
export * from './judgement/pointOfUse.ts'
export * from './judgement/record.ts'
export { conductivityBehindDisplay, conductivityOnDisplay } from './kinds/conductivity/model.ts'
export * from './kinds/conductivity/wrongCompensation.ts'
export * from './kinds/index.ts'
export { ionElectrodeAt } from './kinds/ion/model.ts'
export { pairFindings } from './kinds/ion/procedures.ts'
export { findingsOfTwoPoints } from './kinds/ph/findings.ts'
export { PH_LIMITS } from './kinds/ph/limits.ts'
export { phElectrodeOf } from './kinds/ph/model.ts'
export { PH_MILLIVOLTS } from './kinds/ph/presets.ts'
export {
  type CapturedReading,
  isDisplayAlone,
  isOverLine,
  READING_SOURCES,
  type ReadingSource,
} from './measurement/capturedReading.ts'
export { differingParameters, type ParameterDifference } from './measurement/differingParameters.ts'
export * from './measurement/instrument.ts'
export type * from './measurement/measurementModel.ts'
export { outputCurrent } from './measurement/ownDisplay.ts'
export {
  type OwnStandard,
  type PrintedValues,
  readPrintedValues,
} from './measurement/ownStandards.ts'
export { parametersSentence } from './measurement/parametersSentence.ts'
export { isSameWater, type Process } from './measurement/sameWater.ts'
export type { SensorKind } from './measurement/sensorKind.ts'
export type { SensorReading } from './measurement/sensorReading.ts'
export { type Keeping, POURING_ML, type Standard, USUAL_KEEPING } from './measurement/standard.ts'
export { TEMPERATURE_SOURCES, type TemperatureSource } from './measurement/temperatureSource.ts'
export { WATER_CAUTIONS, WATER_KINDS, WATERS, type Water } from './measurement/waters.ts'
export { completed, isWhole, tellable, unknownIn } from './measurement/wholeCalibration.ts'
export { type FoundThen, foundAt, type KnownHistory, pastSeries, type TakenVisit } from './past/pastSeries.ts'
export { type PastCalibration, type PastPoint, workedOutAnew } from './past/pastVisit.ts'
export * from './past/stated.ts'
export { countHours, type HoursCounted, type MeterReading } from './planning/hoursRun.ts'
export {
  CHECK_FIRST,
  CHECK_FIRST_WORDS,
  type CheckFirst,
  INTERVAL_METHOD_WORDS,
  INTERVAL_METHODS,
  type IntervalMethod,
  type IntervalPolicy,
  type NextDate,
  nextDate,
  type SensorState,
  sensorState,
} from './planning/interval.ts'
export { type LeadingFact, leadingFact, stateWith } from './planning/leadingFact.ts'
export { type Limits, loosened } from './planning/loosened.ts'
export { type PlannedSensor, type PlannedTrip, type PlannedVisit, planTrips } from './planning/planTrips.ts'
export { staircaseInterval } from './planning/staircase.ts'
export { type Job, type JobPart, type Timeline, type TimelineEntry, timelineOf } from './planning/timeline.ts'
export { errorAfter, errorInStandard, expectedShown, judgeStep, pointReading } from './procedures/assess.ts'
export {
  heldFields,
  heldFor,
  type RelativeCalibration,
  relativeOf,
  statedHeld,
  tellableOf,
  tellsSignal,
} from './procedures/heldCalibration.ts'
export { commissioningFields, RETIRE, RETIREMENT_CAUSES } from './procedures/lifeCycle.ts'
export { readOwnInputs } from './procedures/ownInputs.ts'
export type * from './procedures/procedure.ts'
export * from './procedures/setup.ts'
export { compareShownAfter } from './procedures/shownAfter.ts'
export type * from './procedures/step.ts'
export {
  displayed,
  errorQuantity,
  shownQuantity,
  signalQuantity,
  standardLabel,
  standardQuantity,
} from './procedures/words.ts'
export {
  gradeOf,
  type PracticeTopic,
  stopwatchOf,
  USUAL_PRACTICES,
  WORKING_PRACTICES,
  type WorkingPractices,
} from './procedures/workingPractices.ts'
export { EC_SCALES, type EcScale } from './quantities/ecScales.ts'
export { nullIfOutOfRange, OutOfRange, type RangeViolation, requireWithin } from './quantities/outOfRange.ts'
export { convertUnit, isUnit, UNIT_DIMENSION, unitOf } from './quantities/quantityText.ts'
export {
  numberText,
  PLAIN_STYLE,
  quantityText,
  type ReadUnit,
  render,
  type TextStyle,
  unitRead,
} from './quantities/render.ts'
export * from './quantities/sentence.ts'
export {
  type DecimalMark,
  decimalMarkOf,
  inOneWay,
  readTypedNumber,
  type TypedNumber,
  typedNumberProblem,
} from './quantities/typedNumber.ts'
export * from './quantities/typedTemperature.ts'
export { READER_CHOICES, type ReaderChoices, readerFrom, readerStyle, USUAL_READER } from './reader/reader.ts'
export * from './readings/bins.ts'
export * from './readings/displaySlip.ts'
export * from './readings/keepRule.ts'
export * from './readings/readingState.ts'
export * from './readings/rollUp.ts'
export {
  CONSUMABLE_FIELDS,
  codeKey,
  copiedCode,
  deviceFields,
  displayFields,
  displayProblems,
  displayValues,
  LABEL_FIELDS,
  NEW_TEMPLATE_FIELDS,
  newStandardFields,
  PERSON_FIELDS,
  PLACE_FIELDS,
  placingFields,
  proposedCode,
  ruleFields,
  SENSOR_FIELDS,
  SITE_FIELDS,
  STANDARD_FIELDS,
  settingFields,
  settingOf,
  settingValues,
  standingFields,
  TEMPLATE_FIELDS,
  withDisplay,
} from './setUp/fields.ts'
export { atMost, mayDo, ROLES, type Role } from './setUp/roles.ts'
export { cautionsIn, shownValue, type Template, templateFor, usualIn, valueShown } from './setUp/templates.ts'
export { isTaken, type SettlingGrade } from './stability/grade.ts'
export { stabilityJudge } from './stability/judge.ts'
export type {
  Sample,
  StabilityJudge,
  StabilityOpinion,
  StabilityReason,
  StabilityState,
} from './stability/opinion.ts'
export {
  harmlessCreep,
  plainPreset,
  roundedPreset,
  type StabilityPreset,
} from './stability/presets.ts'
export { type SettlingSignature, SIGNATURE_TIMES } from './stability/settlingSignature.ts'
export { SPARSE_APART, sparseOpinion } from './stability/sparseOpinion.ts'
export type { Stopwatch } from './stability/stopwatch.ts'
export { type Display, type TypedSample, typedOpinion } from './stability/typedOpinion.ts'
export * from './standards/conductivityStandards.ts'
export { CODES_FIRST, HAZARDS, type Hazard } from './standards/hazards.ts'
export * from './standards/ionStandards.ts'
export * from './standards/orpStandards.ts'
export { PH_BUFFERS, type PhBuffer, type PhTable, phBuffer, phBufferValue } from './standards/phBuffers.ts'
export * from './standards/preparation.ts'
export { changePoints, type Segment } from './statistics/changePoints.ts'
export { type ControlLimits, controlLimits } from './statistics/controlLimits.ts'
export { leastSquares, type StraightLine } from './statistics/leastSquares.ts'
export { median, quantile } from './statistics/median.ts'
export { Z95 } from './statistics/normalDistribution.ts'
export { type RandomStream, randomStream } from './statistics/random.ts'
export { type RobustTrend, theilSen } from './statistics/theilSen.ts'
export * from './temperature/platinum.ts'
export * from './temperature/scales.ts'
export * from './temperature/thermistor.ts'
export * from './uncertainty/propagation.ts'
export { arithmeticOf } from './visits/arithmetic.ts'
export * from './visits/closedRecord.ts'
export * from './visits/commands.ts'
export { knownAs, liveFinding } from './visits/liveFindings.ts'
export { entrySentence } from './visits/recordSentences.ts'
export * from './visits/refusal.ts'
export * from './visits/stepSession.ts'
export * from './visits/typing.ts'
export type { VisitLive } from './visits/visitLive.ts'
export * from './visits/visitReducer.ts'
export * from './visits/visitRun.ts'
export * from './visits/visitView.ts'
