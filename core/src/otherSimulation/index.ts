export * from './fleets.ts'
export * from './lives.ts'
export * from './phHistories.ts'
export * from './settling.ts'
