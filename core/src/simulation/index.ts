export * from './ageing.ts'
export { type Contest, compareSchools, type SchoolSummary, summarise } from './compareSchools.ts'
export * from './sensors.ts'
export { type SettlingTrace, settlingTraces, TRACE_KINDS, type TraceKind } from './settlingTraces.ts'
