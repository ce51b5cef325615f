export * from './ageing.ts'
export {
  type Contest,
  compareSchools,
  SCHOOL_SUBJECTS,
  type SchoolSubject,
  type SchoolSummary,
  summarise,
} from './compareSchools.ts'
export * from './sensors.ts'
export {
  PH_NATURE,
  type SettlingTrace,
  settlingTraces,
  TRACE_KINDS,
  type TraceKind,
  type TraceNature,
} from './settlingTraces.ts'
