export * from './fleets.ts'
export * from './phHistories.ts'
export * from './settling.ts'
