export * from './alarms.ts'
export * from './backup.ts'
export * from './bring.ts'
export * from './calendarDay.ts'
export * from './clock.ts'
export * from './connections.ts'
export * from './decimalMark.ts'
export * from './endpoints.ts'
export * from './entries.ts'
export * from './forms.ts'
export * from './mapping.ts'
export * from './people.ts'
export * from './requests.ts'
export * from './rules.ts'
export * from './telling.ts'
export {
  displayBounds,
  looksLikeFahrenheit,
  saysItsUnit,
  TEMPERATURE_BOUNDS,
  type TypedBounds,
  type TypedReadingFields,
  typedBounds,
  typedReadingFields,
} from './typedNumber.ts'
export * from './views/alarms.ts'
export * from './views/backup.ts'
export * from './views/bench.ts'
export * from './views/connections.ts'
export * from './views/instruments.ts'
export * from './views/ledger.ts'
export * from './views/people.ts'
export * from './views/plan.ts'
export * from './views/probes.ts'
export * from './views/report.ts'
export * from './views/rig.ts'
export * from './views/rounds.ts'
export * from './views/series.ts'
export * from './views/shelf.ts'
export * from './views/site.ts'
export * from './views/telling.ts'
export * from './views/walk.ts'
export * from './walk.ts'
export type * from './webExtension.ts'
