export * from './phHistories.ts'
export * from './settling.ts'
